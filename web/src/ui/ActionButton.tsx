import type { ReactNode } from "react";

type Props = {
	children: ReactNode;
	onPress?: () => void;
	isQuiet?: boolean;
	isBusy?: boolean;
	isOff?: boolean;
	type?: "button" | "submit";
};

/** Something to press that reads as a word, not as a box; on paper there is nothing to press. */
export function ActionButton({ children, onPress, isQuiet = false, isBusy = false, isOff, type = "button" }: Props) {
	const look = isQuiet ? "font-normal text-soft border-hair" : "font-semibold border-copper";
	return (
		<button
			type={type}
			disabled={isOff}
			aria-busy={isBusy}
			onClick={onPress}
			className={`border-b-2 pb-px text-left text-note leading-tight hover:border-ink disabled:opacity-40 disabled:hover:border-copper print:hidden ${look}`}
		>
			{children}
		</button>
	);
}
