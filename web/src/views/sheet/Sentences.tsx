import { useState } from "react";
import { ActionButton } from "../../ui/ActionButton";
import { Folded } from "../../ui/Folded";
import { SentenceField } from "./SentenceField";

/** One more rule, written as a sentence; and all of them as text, to take elsewhere. */
export function Sentences({ host, written }: { host: string; written: readonly string[] }) {
	const [isCopied, setCopied] = useState(false);
	const text = written.join("\n");
	return (
		<div className="space-y-3">
			<SentenceField host={host} label="A new sentence, or several pasted a line each" />
			{written.length > 0 && (
				<Folded summary="All sentences as text" className="print:hidden">
					<textarea
						aria-label="All sentences"
						readOnly
						value={text}
						rows={Math.min(written.length + 1, 12)}
						onFocus={(event) => event.target.select()}
						className="mt-2 w-full max-w-[46rem] border border-hair bg-transparent p-2 text-note"
					/>
					<p>
						<ActionButton
							onPress={async () => {
								await navigator.clipboard?.writeText(text);
								setCopied(true);
							}}
						>
							{isCopied ? "Copied" : "Copy them"}
						</ActionButton>
					</p>
				</Folded>
			)}
		</div>
	);
}
