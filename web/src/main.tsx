import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { lazy, StrictMode, Suspense } from "react";
import { createRoot } from "react-dom/client";
import { Redirect, Route, Switch } from "wouter";
import "@fontsource-variable/atkinson-hyperlegible-next/wght.css";
import "@fontsource-variable/bricolage-grotesque/wght.css";
import "@fontsource-variable/sometype-mono/wght.css";
import "./main.css";
import { useShelf } from "./api/project";
import { watchTheme } from "./theme";

// Each page is fetched when it is first gone to.
const ProjectPage = lazy(() => import("./views/project/ProjectPage"));
const ShelfPage = lazy(() => import("./views/shelf/ShelfPage"));

watchTheme();
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
				<Suspense>
					<Switch>
						<Route path="/shelf">
							<ShelfPage />
						</Route>
						<Route path="/projects/:id/:view?">{({ id, view }) => <ProjectPage id={id} view={view ?? ""} />}</Route>
						<Route>
							<LastProject />
						</Route>
					</Switch>
				</Suspense>
			</QueryClientProvider>
		</StrictMode>,
	);
