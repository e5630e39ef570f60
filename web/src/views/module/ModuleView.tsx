import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useSearchParams } from "wouter";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import { Folded } from "../../ui/Folded";
import { BlinkReader } from "./BlinkReader";
import { Frames } from "./Frames";
import { ReadingBack } from "./ReadingBack";
import { ScriptThread } from "./ScriptThread";
import { Talk } from "./Talk";
import { useConsole } from "./useConsole";
import { useReading } from "./useReading";

/** At the module: talk to it, walk its script, read back what another terminal kept, and see what its light says. */
export default function ModuleView() {
	const { id, revision } = useKept();
	const [search] = useSearchParams();
	const node = search.get("node") ?? "-";
	const talk = useConsole(id);
	const shown = useQuery({
		queryKey: ["module", id, node, revision],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/module/{node}", { params: { path: { project_id: id, node }, query: { revision } } }),
			),
		placeholderData: (before) => before,
		retry: false,
	});
	if (!shown.data)
		return (
			<p className="px-8 py-5">
				{shown.error ? "There is no module in this plan: nothing to set up, and nobody to talk to." : "Going to the module…"}
			</p>
		);
	return <AtModule key={shown.data.node} module={shown.data} talk={talk} />;
}

type Module = NonNullable<Awaited<ReturnType<typeof moduleType>>>;
const moduleType = () =>
	answered(api.GET("/api/projects/{project_id}/module/{node}", { params: { path: { project_id: "", node: "" } } }));

function AtModule({ module, talk }: { module: Module; talk: ReturnType<typeof useConsole> }) {
	const [, setSearch] = useSearchParams();
	const reading = useReading(module.node);
	const back = useRef<HTMLDivElement>(null);
	const { isOpen, members, send, close } = talk;
	// Two that are bound are in one conversation, and whoever is looked at is talked to; anybody else is in none of it.
	useEffect(() => {
		if (!isOpen) return;
		if (members.some((it) => it.id === module.node)) send({ to: module.node });
		else close();
	}, [isOpen, members, send, close, module.node]);
	const askWhy = () => {
		void reading.readText("", module.speed_bd);
		back.current?.scrollIntoView();
	};
	const readTalk = () => {
		void reading.readText(talk.transcript(), module.speed_bd);
		back.current?.scrollIntoView();
	};
	const [told, setTold] = useState("");
	return (
		<article aria-labelledby="at-module" className="space-y-6 px-8 py-5 pb-24 max-[720px]:px-4">
			<header className="space-y-1">
				<h2 id="at-module" className="font-bold font-said text-said leading-tight">
					{told || module.sentence}
				</h2>
				<p className="max-w-prose text-note text-soft">
					{module.label}, {module.family}. {module.believed.charAt(0).toUpperCase() + module.believed.slice(1)}.
				</p>
				{module.others.length > 1 && (
					<p className="flex gap-x-5 text-note">
						{module.others.map((it) => (
							<button
								type="button"
								key={it.id}
								aria-pressed={it.id === module.node}
								onClick={() => setSearch({ node: it.id })}
								className={`border-b-2 ${it.id === module.node ? "border-lamp font-semibold" : "border-hair text-soft hover:border-ink"}`}
							>
								{it.label}
							</button>
						))}
					</p>
				)}
			</header>
			<div className="grid gap-x-10 gap-y-8 desk:grid-cols-[minmax(0,3fr)_minmax(0,2fr)]">
				<Talk module={module} console={talk} onRead={readTalk} onSilent={askWhy} />
				<ScriptThread module={module} console={talk} onTold={setTold} />
			</div>
			<section aria-label="Besides" className="space-y-3">
				<div ref={back}>
					<Folded summary="Read back what a terminal kept" isOpenAtFirst>
						<ReadingBack reading={reading} />
					</Folded>
				</div>
				<Folded summary="What its light says" isOpenAtFirst>
					<BlinkReader node={module.node} blinks={module.blinks} />
				</Folded>
				{(module.frames.length > 0 || module.packet_bytes) && (
					<Folded summary="Packets and frames">
						<Frames module={module} />
					</Folded>
				)}
			</section>
		</article>
	);
}

export type { Module };
