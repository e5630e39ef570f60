import { Select } from "radix-ui";
import { useState } from "react";
import type { Choice, Option } from "../api/client";

type Props = {
	choice: Choice;
	onPick: (option: Option) => void;
	note?: string | null;
	onNear?: (isNear: boolean) => void;
	trouble?: string;
};

/** One of many, by keyboard or pointer; tells what was not chosen before, and when its options are about to be wanted. */
export function PickOne({ choice, onPick, note, onNear, trouble }: Props) {
	const [isOpen, setOpen] = useState(false);
	const isAwaited = choice.more > 0 && !trouble; // the list opens when it is whole, so that typing finds what it has
	const chosen = choice.options.findIndex((option) => option.is_chosen);
	const pick = (index: string) => {
		const option = choice.options[Number(index)];
		if (option && !option.is_chosen) onPick(option);
	};
	const tone = choice.origin === "proposed" ? "border-hair text-soft" : "border-ink";
	return (
		<Select.Root
			value={chosen < 0 ? "" : String(chosen)}
			onValueChange={pick}
			open={isOpen && !isAwaited}
			onOpenChange={(next) => {
				setOpen(next);
				onNear?.(true);
			}}
		>
			<Select.Trigger
				onFocus={() => onNear?.(true)}
				onBlur={() => isOpen || onNear?.(false)}
				aria-label={choice.label}
				className={`inline-flex min-w-24 items-baseline justify-between gap-3 border-b-2 pb-0.5 text-left hover:border-copper ${tone}`}
			>
				<Select.Value placeholder="choose…" />
				<Select.Icon className="text-soft text-xs">▾</Select.Icon>
			</Select.Trigger>
			<Select.Portal>
				<Select.Content
					position="popper"
					sideOffset={4}
					collisionPadding={12}
					className="z-50 max-h-[min(24rem,var(--radix-select-content-available-height))] overflow-hidden rounded-2xl bg-sheet p-2 shadow-[var(--shadow)]"
				>
					{note && (
						<p className="mx-3 mb-1 max-w-80 border-hair border-b pt-1 pb-2 text-note text-soft">
							{note[0]?.toUpperCase() + note.slice(1)}
						</p>
					)}
					<Select.Viewport>
						{choice.options.map((option, index) => (
							<Select.Item
								key={option.label}
								value={String(index)}
								className="cursor-pointer rounded-xl px-3 py-1.5 outline-none data-[highlighted]:bg-ground data-[state=checked]:font-bold"
							>
								<Select.ItemText>{option.label}</Select.ItemText>{" "}
								{option.detail && <span className="ml-3 font-normal text-soft text-xs">{option.detail}</span>}
							</Select.Item>
						))}
						{trouble && <p className="px-3 py-1.5 text-soft text-xs">{trouble}</p>}
					</Select.Viewport>
				</Select.Content>
			</Select.Portal>
		</Select.Root>
	);
}
