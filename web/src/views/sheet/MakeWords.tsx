import type { Sheet } from "../../api/client";
import { DrawWords } from "./DrawWords";
import { NewWord } from "./NewWord";
import { PasteWords } from "./PasteWords";

/** The ways to more words: one typed, a list pasted, all drawn up. */
export function MakeWords({ sheet }: { sheet: Sheet }) {
	const vocabulary = sheet.stage.slice("vocabularies.".length);
	return (
		<div className="space-y-4">
			<NewWord vocabulary={vocabulary} />
			<DrawWords vocabulary={vocabulary} isFirst={!sheet.words.length} />
			<PasteWords vocabulary={vocabulary} />
		</div>
	);
}
