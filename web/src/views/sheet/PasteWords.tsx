import { answered, api } from "../../api/client";
import { useEdits, useKept } from "../../api/project";
import { PasteBox } from "../../ui/PasteBox";

/** Takes in a table of words as it comes out of a spreadsheet; a row that cannot be a word is named, and nothing is kept of it. */
export function PasteWords({ vocabulary }: { vocabulary: string }) {
	const { id, revision } = useKept();
	const { change } = useEdits();
	const take = async (text: string) => {
		const body = { base_revision: revision, patch: {}, vocabulary, text };
		const params = { path: { project_id: id } };
		const move = await answered(api.POST("/api/projects/{project_id}/pasted-words", { params, body }));
		await change({ patch: move.patch, summary: move.label });
		return null;
	};
	return (
		<PasteBox
			summary="Paste a list of words"
			how="A word a line: its name, what is sent, and what it does as its list says it, parted by tabs, semicolons or commas. The last two may be missing."
			label="Words to take in"
			most={100_000}
			take={take}
		/>
	);
}
