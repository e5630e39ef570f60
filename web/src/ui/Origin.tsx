import { Popover } from "radix-ui";
import { memo } from "react";
import type { Value } from "../api/client";
import { WorkingList } from "./WorkingList";

const WORDS = {
	own: "yours",
	measured: "measured",
	part: "from the part",
	proposed: "proposed",
	computed: "worked out",
};

type Props = { origin: Value["origin"]; because?: string | null; value?: Value | null; label: string };

/** Says where a value comes from; pressed, it says why and shows the working. */
export const Origin = memo(function Origin({ origin, because, value, label }: Props) {
	const tone = origin === "proposed" ? "text-coppertext italic" : "text-soft";
	return (
		<Popover.Root>
			<Popover.Trigger
				aria-label={`${label}: ${WORDS[origin]}, why?`}
				className={`cursor-help text-xs underline decoration-dotted underline-offset-2 ${tone}`}
			>
				{WORDS[origin]}
			</Popover.Trigger>
			<Popover.Portal>
				<Popover.Content
					sideOffset={6}
					collisionPadding={12}
					className="z-50 max-w-sm rounded-2xl bg-sheet p-4 text-note shadow-[var(--shadow)]"
				>
					<p className="font-semibold">
						{label}
						{value ? `: ${value.text}` : ""}
					</p>
					{because && <p className="mt-1">{because.charAt(0).toUpperCase() + because.slice(1)}.</p>}
					{value?.spread_text && <p className="mt-1 font-number">At worst {value.spread_text}</p>}
					{value && <WorkingList working={value.working} />}
					{!because && !value?.working.length && <p className="mt-1 text-soft">You settled this.</p>}
				</Popover.Content>
			</Popover.Portal>
		</Popover.Root>
	);
});
