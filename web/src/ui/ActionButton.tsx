import type { ReactNode } from "react";

type Props = { children: ReactNode; onPress: () => void; isQuiet?: boolean; isBusy?: boolean };

/** Something to press that reads as a word, not as a box; on paper there is nothing to press. */
export function ActionButton({ children, onPress, isQuiet = false, isBusy = false }: Props) {
	const look = isQuiet ? "font-normal text-soft border-hair" : "font-semibold border-copper";
	return (
		<button
			type="button"
			aria-busy={isBusy}
			onClick={onPress}
			className={`border-b-2 pb-px text-left text-note leading-tight hover:border-ink print:hidden ${look}`}
		>
			{children}
		</button>
	);
}
