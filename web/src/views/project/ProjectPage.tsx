import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { Link, useSearchParams } from "wouter";
import { api, Refusal } from "../../api/client";
import { ProjectProvider, useProject } from "../../api/project";
import { RehearsalProvider } from "../../api/rehearsal";
import { ThumbPage } from "../phone/ThumbPage";
import { Desk } from "./Desk";
import { Earlier } from "./Earlier";

/** A project: the line on top, the chosen stage's sheet and the verdicts under it, the phone at the edge. */
export default function ProjectPage({ id, view }: { id: string; view: string }) {
	const [search] = useSearchParams();
	const client = useQueryClient();
	const project = useProject(id, search.get("stage"));
	useEffect(() => {
		api.POST("/api/projects/{project_id}/opened", { params: { path: { project_id: id } } }).catch(() => undefined); // it opens all the same
	}, [id]);
	if (project.error && !project.data)
		return <NotShown id={id} error={project.error} onAgain={() => client.resetQueries({ queryKey: ["project", id] })} />;
	if (!project.data) return <Waiting />;
	return (
		<ProjectProvider state={project.data}>
			<RehearsalProvider key={id} isInstant={view === "phone"}>
				{view === "phone" ? <ThumbPage /> : <Desk view={view} />}
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

function NotShown({ id, error, onAgain }: { id: string; error: Error; onAgain: () => void }) {
	const isAway = error instanceof Refusal && error.status === 0;
	const isBroken = error instanceof Refusal && error.status === 422;
	return (
		<main className="mx-auto max-w-xl p-16 max-[720px]:p-6">
			<h1 className="font-bold font-said text-said">{isAway ? "The server is away." : "This project cannot be shown."}</h1>
			{isBroken && (
				<p className="mt-2">
					What is kept of it cannot be read by this Odd Lamp. Nothing is lost: its file, its other changes and all other projects
					are as they were.
				</p>
			)}
			<p className={`mt-2 ${isBroken ? "text-note text-soft" : ""}`}>{error.message}</p>
			<p className="mt-4 flex flex-wrap gap-6">
				<button type="button" onClick={onAgain} className="border-copper border-b-2 font-semibold">
					Try again
				</button>
				<Link href="/shelf" className="border-hair border-b-2">
					Look along the shelf
				</Link>
				{isBroken && (
					<a href={`/api/projects/${id}/raw`} download={`project-${id}.json`} className="border-hair border-b-2">
						Take its file away as it is
					</a>
				)}
			</p>
			{isBroken && <Earlier id={id} onBack={onAgain} />}
		</main>
	);
}
