import { type Patch, Refusal } from "../../../api/client";
import { joinPatches, patchAt } from "../../../api/patch";
import { useEdits } from "../../../api/project";
import { PasteBox } from "../../../ui/PasteBox";

/** Takes in places of one's own, one a line in the order of the chain; a line that is none is named, and nothing is kept of it. */
export function PastePlaces({ patch, lamp }: { patch: Patch; lamp: string }) {
	const { change } = useEdits();
	const take = async (text: string) => {
		const whole = joinPatches(patch, patchAt(["lamps", lamp, "layout", "shape", "places"], text));
		const error = await change({ patch: whole, summary: "Places pasted" }, true);
		return error && (error instanceof Refusal && error.allowed ? `Give ${error.allowed}.` : error.message);
	};
	return (
		<PasteBox
			summary="Paste places"
			how="A pixel a line, in the order of the chain: how far across and how far down, parted by a comma, a semicolon, a tab or a space. A saved table is read again."
			label="Places to take in"
			most={150_000}
			take={take}
			className="basis-full"
		/>
	);
}
