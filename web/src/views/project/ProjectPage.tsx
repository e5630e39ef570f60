import { Link, useSearchParams } from "wouter";
import { Refusal } from "../../api/client";
import { ProjectProvider, useProject } from "../../api/project";
import { RehearsalProvider } from "../../api/rehearsal";
import { Desk } from "./Desk";

/** A project: the line on top, the chosen stage's sheet and the verdicts under it, the phone at the edge. */
export default function ProjectPage({ id, view }: { id: string; view: string }) {
	const [search] = useSearchParams();
	const project = useProject(id, search.get("stage"));
	if (project.error && !project.data) return <NotShown error={project.error} onAgain={() => project.refetch()} />;
	if (!project.data) return <Waiting />;
	return (
		<ProjectProvider state={project.data}>
			<RehearsalProvider key={id}>
				<Desk view={view} />
			</RehearsalProvider>
		</ProjectProvider>
	);
}

/** A thread without knots, while the line is worked out. */
function Waiting() {
	return (
		<main className="p-7">
			<svg width="100%" height="120" viewBox="0 0 1000 120" preserveAspectRatio="none" aria-hidden="true">
				<path d="M20 60C200 20 300 100 500 60S800 20 980 60" fill="none" className="stroke-hair" strokeWidth="3" />
			</svg>
			<p role="status" className="text-soft">
				Working out the line…
			</p>
		</main>
	);
}

function NotShown({ error, onAgain }: { error: Error; onAgain: () => void }) {
	const isAway = error instanceof Refusal && error.status === 0;
	return (
		<main className="mx-auto max-w-xl p-16 max-[720px]:p-6">
			<h1 className="font-bold font-said text-said">{isAway ? "The server is away." : "This project cannot be shown."}</h1>
			<p className="mt-2">{error.message}</p>
			<p className="mt-4 flex flex-wrap gap-6">
				<button type="button" onClick={onAgain} className="border-copper border-b-2 font-semibold">
					Try again
				</button>
				<Link href="/shelf" className="border-hair border-b-2">
					Look along the shelf
				</Link>
			</p>
		</main>
	);
}
