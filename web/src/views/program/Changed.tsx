/** Lines that one program has and another has not, as far as they differ. */
export function Changed({ lines }: { lines: readonly string[] }) {
	return (
		<ol aria-label="Changed lines" className="mt-2 overflow-x-auto rounded-2xl bg-ground p-4 font-number text-xs leading-5">
			{lines.map((line, at) => (
				<li
					// biome-ignore lint/suspicious/noArrayIndexKey: lines have no other name
					key={at}
					className={`whitespace-pre ${line.startsWith("+") ? "" : line.startsWith("-") ? "text-soft line-through" : "text-soft"}`}
				>
					<span className="sr-only">{line.startsWith("+") ? "new: " : line.startsWith("-") ? "gone: " : ""}</span>
					{line.startsWith("@@") ? "…" : line}
				</li>
			))}
		</ol>
	);
}
