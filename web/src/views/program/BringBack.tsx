import { useState } from "react";
import { answered, api, type ProgramShown, type TakenBack } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { Changed } from "./Changed";

const TEXT_MOST = 400_000;

/** A file that was changed by hand, dropped here: its regions are taken, all else that differs is listed. */
export function BringBack({ program }: { program: ProgramShown }) {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const [found, setFound] = useState<TakenBack | null>(null);
	const [refused, setRefused] = useState("");
	const [isOver, setOver] = useState(false);
	const take = async (file: File | undefined) => {
		if (!file) return;
		setFound(null);
		setRefused("");
		try {
			if (file.size > TEXT_MOST) throw new Error("That is longer than any program printed here.");
			const text = await file.text();
			const body = { base_revision: revision, patch: {}, host: program.host, text };
			const back = await answered(
				api.POST("/api/projects/{project_id}/program/back", { params: { path: { project_id: id } }, body }),
			);
			const why = back.patch && (await change({ patch: back.patch, summary: "Took regions from a changed program" }, true));
			if (why) throw why;
			setFound(back);
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That cannot be read.");
		}
	};
	return (
		<div className="space-y-2 print:hidden">
			<label
				onDragOver={(event) => {
					event.preventDefault();
					setOver(true);
				}}
				onDragLeave={() => setOver(false)}
				onDrop={(event) => {
					event.preventDefault();
					setOver(false);
					take(event.dataTransfer.files[0]);
				}}
				className={`block max-w-prose rounded-2xl border-2 border-dashed p-4 text-note ${isOver ? "border-copper bg-lampsoft" : "border-hair"}`}
			>
				Changed it in your editor? Drop the file here, or choose it: what stands between the lines that begin and end with{" "}
				<i>yours</i> is taken.
				<input
					type="file"
					accept=".ino,.cpp,.txt,text/plain"
					aria-label="A program that was changed by hand"
					onChange={(event) => {
						take(event.target.files?.[0]);
						event.target.value = "";
					}}
					className="mt-2 block w-full text-note"
				/>
			</label>
			{refused && (
				<p role="alert" className="text-cut text-note">
					{refused}
				</p>
			)}
			{found && (
				<div role="status">
					<p>{found.sentence}</p>
					{found.others.length > 0 && <Changed lines={found.others} />}
				</div>
			)}
		</div>
	);
}
