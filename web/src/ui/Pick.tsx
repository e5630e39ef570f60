type Props = {
	label: string;
	value: string;
	options: readonly (readonly [string, string])[];
	onPick: (value: string) => void;
	/** What is picked are words, not numbers. */
	isWord?: boolean;
};

/** One of a few, by the picker that the system has: the quickest by thumb. */
export function Pick({ label, value, options, onPick, isWord = false }: Props) {
	return (
		<label className="text-note text-soft">
			{label}
			<select
				value={value}
				onChange={(event) => onPick(event.currentTarget.value)}
				className={`block max-w-full border-hair border-b-2 bg-transparent py-1 text-ink ${isWord ? "text-base" : "font-number"}`}
			>
				{options.map(([id, told]) => (
					<option key={id} value={id} className="bg-sheet text-ink">
						{told}
					</option>
				))}
			</select>
		</label>
	);
}
