import { useId, useState } from "react";
import { answered, api } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";

/** Takes in a table of words as it comes out of a spreadsheet; a row that cannot be a word is named, and nothing is kept of it. */
export function PasteWords({ vocabulary }: { vocabulary: string }) {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const how = useId();
	const [text, setText] = useState("");
	const [refused, setRefused] = useState("");
	const take = async () => {
		setRefused("");
		try {
			const body = { base_revision: revision, patch: {}, vocabulary, text };
			const params = { path: { project_id: id } };
			const move = await answered(api.POST("/api/projects/{project_id}/pasted-words", { params, body }));
			await change({ patch: move.patch, summary: move.label });
			setText("");
		} catch (caught) {
			setRefused(caught instanceof Error ? caught.message : "That table cannot be read.");
		}
	};
	return (
		<Folded summary="Paste a list of words" className="print:hidden">
			<p id={how} className="mt-2 max-w-prose text-note text-soft">
				A word a line: its name, what is sent, and what it does as its list says it, parted by tabs, semicolons or commas. The
				last two may be missing.
			</p>
			<textarea
				aria-label="Words to take in"
				aria-describedby={how}
				value={text}
				onChange={(event) => setText(event.target.value)}
				rows={6}
				maxLength={100_000}
				className="mt-1 w-full max-w-prose border border-hair bg-transparent p-2 font-number text-note"
			/>
			<p>
				<ActionButton onPress={take}>Take them in</ActionButton>
			</p>
			{refused && (
				<p role="alert" className="mt-1 max-w-prose text-cut text-note">
					{refused}
				</p>
			)}
		</Folded>
	);
}
