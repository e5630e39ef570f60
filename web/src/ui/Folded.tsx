import { type ReactNode, useState } from "react";

type Props = { summary: ReactNode; className?: string; isOpenAtFirst?: boolean; children: ReactNode };

/** Something to open where it stands; what is in it is drawn once it is open, not with every edit while nobody sees it. */
export function Folded({ summary, className = "", isOpenAtFirst = false, children }: Props) {
	const [isOpen, setOpen] = useState(isOpenAtFirst);
	return (
		<details className={className} open={isOpen} onToggle={(event) => setOpen(event.currentTarget.open)}>
			<summary className="cursor-pointer text-note text-soft">{summary}</summary>
			{isOpen && children}
		</details>
	);
}
