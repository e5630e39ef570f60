import { notifyManager, QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { StrictMode } from "react";
import { createRoot } from "react-dom/client";
import { Redirect, Route, Switch } from "wouter";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/bricolage-grotesque/wght.css";
import "@fontsource-variable/sometype-mono/wght.css";
import "./main.css";
import { useShelf } from "./api/project";
import { watchTheme } from "./theme";
import ProjectPage from "./views/project/ProjectPage";
import ShelfPage from "./views/shelf/ShelfPage";

watchTheme();
notifyManager.setScheduler(queueMicrotask); // an answer is drawn at once: a timer would let a frame pass first
const client = new QueryClient({ defaultOptions: { queries: { retry: 1, staleTime: 30_000 } } });

function LastProject() {
	const shelf = useShelf();
	const last = shelf.data?.find((item) => item.place === "shelf");
	if (last) return <Redirect to={`/projects/${last.id}`} replace />;
	if (shelf.data || shelf.error) return <ShelfPage />;
	return (
		<p role="status" className="p-8 text-soft">
			Opening the last project…
		</p>
	);
}

const root = document.getElementById("root");
if (root)
	createRoot(root).render(
		<StrictMode>
			<QueryClientProvider client={client}>
				<Switch>
					<Route path="/shelf">
						<ShelfPage />
					</Route>
					<Route path="/projects/:id/:view?">{({ id, view }) => <ProjectPage id={id} view={view ?? ""} />}</Route>
					<Route>
						<LastProject />
					</Route>
				</Switch>
			</QueryClientProvider>
		</StrictMode>,
	);
