import { useId, useState } from "react";
import { type Patch, Refusal } from "../../../api/client";
import { joinPatches, patchAt } from "../../../api/patch";
import { useEdits } from "../../../api/project";
import { ActionButton } from "../../../ui/ActionButton";
import { Folded } from "../../../ui/Folded";

/** Takes in places of one's own, one a line in the order of the chain; a line that is none is named, and nothing is kept of it. */
export function PastePlaces({ patch, lamp }: { patch: Patch; lamp: string }) {
	const { change } = useEdits();
	const how = useId();
	const [text, setText] = useState("");
	const [refused, setRefused] = useState("");
	const take = async () => {
		setRefused("");
		const whole = joinPatches(patch, patchAt(["lamps", lamp, "layout", "shape", "places"], text));
		const error = await change({ patch: whole, summary: "Places pasted" }, true);
		if (!error) setText("");
		else setRefused(error instanceof Refusal && error.allowed ? `Give ${error.allowed}.` : error.message);
	};
	return (
		<Folded summary="Paste places" className="basis-full">
			<p id={how} className="mt-2 max-w-prose text-note text-soft">
				A pixel a line, in the order of the chain: how far across and how far down, parted by a comma, a semicolon, a tab or a
				space. A saved table is read again.
			</p>
			<textarea
				aria-label="Places to take in"
				aria-describedby={how}
				value={text}
				onChange={(event) => setText(event.target.value)}
				rows={5}
				maxLength={150_000}
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
