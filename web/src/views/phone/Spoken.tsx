import { useState } from "react";
import type { PhoneButton } from "../../api/client";
import { usePhone } from "../../api/rehearsal";

/** What is said to a voice helper, typed: the stand-in understands its own phrases and nothing else. */
export function Spoken({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	const { play } = usePhone();
	const [text, setText] = useState("");
	const size = isBig ? "min-h-14 text-name" : "py-1 text-note";
	return (
		<form
			className="flex min-w-0 basis-full items-end gap-2"
			onSubmit={(event) => {
				event.preventDefault();
				play({ kind: "spoken", node: button.control, text });
			}}
		>
			<input
				aria-label={`Say to the ${button.group || "voice helper"}`}
				placeholder="what you would say"
				value={text}
				maxLength={200}
				onChange={(event) => setText(event.target.value)}
				className={`min-w-0 flex-1 rounded-md border border-tongueline bg-transparent px-2 ${size}`}
			/>
			<button type="submit" className={`rounded-full border border-tongueline px-4 font-semibold ${size}`}>
				{button.label}
			</button>
		</form>
	);
}
