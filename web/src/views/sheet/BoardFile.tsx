import { useRef, useState } from "react";
import { answered, api } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";

/** Takes a board in from a file; what is wrong with the file is told beside it, and nothing is kept of it. */
export function ReadBoard() {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const file = useRef<HTMLInputElement>(null);
	const [refused, setRefused] = useState("");
	const read = async (chosen: File) => {
		setRefused("");
		try {
			if (chosen.size > 1_000_000) throw new Error(`${chosen.name} is over 1 MB, far more than a board has.`);
			const body = { base_revision: revision, name: chosen.name.slice(0, 200), text: await chosen.text() };
			const params = { path: { project_id: id } };
			const move = await answered(api.POST("/api/projects/{project_id}/board-file", { params, body }));
			await change({ patch: move.patch, summary: move.label });
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That file cannot be read.");
		}
	};
	return (
		<div>
			<ActionButton onPress={() => file.current?.click()}>Read a board from a file</ActionButton>
			<input
				ref={file}
				type="file"
				accept=".toml,.json"
				aria-label="Board file"
				className="hidden"
				onChange={(event) => {
					const chosen = event.currentTarget.files?.[0];
					event.currentTarget.value = "";
					if (chosen) read(chosen);
				}}
			/>
			{refused && (
				<p role="alert" className="mt-2 max-w-prose text-cut text-note">
					{refused}
				</p>
			)}
		</div>
	);
}

/** Gives a board of one's own as a file, for another project or another maker. */
export function SaveBoard({ part }: { part: string }) {
	const { id } = useKept();
	const forms = ["toml", "json"];
	return (
		<p className="flex flex-wrap gap-x-5 gap-y-1.5">
			{forms.map((form) => (
				<a
					key={form}
					href={`/api/projects/${id}/board-file?part=${part}&form=${form}`}
					download={`${part}.${form}`}
					className="underline decoration-copper underline-offset-4"
				>
					Save it as {form.toUpperCase()}
				</a>
			))}
		</p>
	);
}
