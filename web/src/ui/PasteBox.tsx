import { useId, useState } from "react";
import { ActionButton } from "./ActionButton";
import { Folded } from "./Folded";

type Props = {
	summary: string;
	how: string;
	label: string;
	most: number;
	/** Take in what was pasted; tells why it cannot be. */
	take: (text: string) => Promise<string | null>;
	className?: string;
};

/** A table to paste, a line each; where it is refused it stays there, to be mended. */
export function PasteBox({ summary, how, label, most, take, className = "" }: Props) {
	const id = useId();
	const [text, setText] = useState("");
	const [refused, setRefused] = useState("");
	const press = async () => {
		setRefused("");
		const why = await take(text).catch((caught) => (caught instanceof Error ? caught.message : "That cannot be read."));
		if (why === null) setText("");
		else setRefused(why);
	};
	return (
		<Folded summary={summary} className={`print:hidden ${className}`}>
			<p id={id} className="mt-2 max-w-prose text-note text-soft">
				{how}
			</p>
			<textarea
				aria-label={label}
				aria-describedby={id}
				value={text}
				onChange={(event) => setText(event.target.value)}
				rows={6}
				maxLength={most}
				className="mt-1 w-full max-w-prose border border-hair bg-transparent p-2 font-number text-note"
			/>
			<p>
				<ActionButton onPress={press}>Take them in</ActionButton>
			</p>
			{refused && (
				<p role="alert" className="mt-1 max-w-prose text-cut text-note">
					{refused}
				</p>
			)}
		</Folded>
	);
}
