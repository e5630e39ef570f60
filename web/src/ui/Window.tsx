import { Dialog } from "radix-ui";
import { type ReactNode, useRef } from "react";

type Props = { title: string; isOpen: boolean; onClose: () => void; children: ReactNode; isTitleShown?: boolean };

/** A window above the page that closes with Escape and gives the focus back. */
export function Window({ title, isOpen, onClose, children, isTitleShown = true }: Props) {
	const opener = useRef<Element | null>(null);
	return (
		<Dialog.Root open={isOpen} onOpenChange={(open) => !open && onClose()}>
			<Dialog.Portal>
				<Dialog.Overlay className="fixed inset-0 z-40 bg-[rgb(20_14_32_/_0.45)]" />
				<Dialog.Content
					aria-describedby={undefined}
					onOpenAutoFocus={() => {
						opener.current = document.activeElement;
					}}
					onCloseAutoFocus={(event) => {
						event.preventDefault(); // there is no trigger the primitive knows of
						if (opener.current instanceof HTMLElement) opener.current.focus();
					}}
					className="fixed top-[8vh] left-1/2 z-50 flex max-h-[84vh] w-[min(40rem,calc(100vw-1.5rem))] -translate-x-1/2 flex-col overflow-y-auto rounded-[1.75rem] bg-sheet p-6 shadow-[var(--shadow)] max-[480px]:p-4"
				>
					<Dialog.Title className={isTitleShown ? "font-bold font-said text-said leading-tight" : "sr-only"}>
						{title}
					</Dialog.Title>
					{children}
				</Dialog.Content>
			</Dialog.Portal>
		</Dialog.Root>
	);
}
