import { type KeyboardEvent, useRef, useState } from "react";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import type { Module } from "./ModuleView";
import { MovingLight } from "./MovingLight";

type Props = { node: string; blinks: Module["blinks"] };

/** Press the blink you see, or tap its rhythm: what state that is, and what it means for the next step. */
export function BlinkReader({ node, blinks }: Props) {
	const { id } = useKept();
	const [told, setTold] = useState("");
	const taps = useRef<number[]>([]);
	const tap = async () => {
		const now = performance.now() / 1000;
		const last = taps.current.at(-1);
		if (last !== undefined && now - last > 6) taps.current = [];
		taps.current = [...taps.current, now].slice(-20);
		if (taps.current.length < 4) {
			setTold(`${taps.current.length} of four taps…`);
			return;
		}
		const read = await answered(
			api.POST("/api/projects/{project_id}/module/{node}/blink", {
				params: { path: { project_id: id, node } },
				body: { taps_s: taps.current },
			}),
		);
		const next = blinks.find((it) => it.turns_s.join() === (read.turns_s ?? []).join())?.next;
		setTold(
			`${read.text.charAt(0).toUpperCase()}${read.text.slice(1)}${read.text.endsWith(".") ? "" : "."} ${read.turns_s?.length ? next : ""}`,
		);
	};
	const press = (event: KeyboardEvent) => {
		if (event.key !== " " || event.repeat) return;
		event.preventDefault();
		void tap();
	};
	return (
		<div className="mt-2 space-y-3 text-note">
			<ul className="flex flex-wrap gap-3">
				{blinks.map((it) => (
					<li key={it.text}>
						<button
							type="button"
							onClick={() => setTold(`${it.means.charAt(0).toUpperCase()}${it.means.slice(1)}. ${it.next}`)}
							className="flex items-center gap-3 rounded-full border border-hair px-4 py-2 hover:border-ink"
						>
							<MovingLight turns={it.turns_s} />
							{it.text}
						</button>
					</li>
				))}
				<li>
					<button
						type="button"
						onKeyDown={press}
						onPointerDown={() => void tap()}
						className="rounded-full border-2 border-copper px-4 py-2 hover:border-ink"
					>
						Tap here, or with Space, each time it lights up
					</button>
				</li>
			</ul>
			<p role="status" className="min-h-5 max-w-prose">
				{told}
			</p>
		</div>
	);
}
