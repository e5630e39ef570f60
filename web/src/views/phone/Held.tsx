import type { PhoneButton } from "../../api/client";
import { Press } from "./Controls";
import { Light } from "./Light";
import { Spoken } from "./Spoken";
import { Values } from "./Values";

export const keyOf = (button: PhoneButton) => `${button.kind} ${button.node ?? ""} ${button.control}`;

/** One control in the hand, as it is made. */
export function Held({ button, isBig }: { button: PhoneButton; isBig?: boolean }) {
	if (button.kind === "spoken") return <Spoken button={button} isBig={isBig} />;
	if (button.looks === "light") return <Light button={button} />;
	return button.slides.length ? <Values button={button} isBig={isBig} /> : <Press button={button} isBig={isBig} />;
}

/** The controls of each handset together, and the plan's own buttons last. */
export function groupsOf(buttons: readonly PhoneButton[]): [string, PhoneButton[]][] {
	const groups = new Map<string, PhoneButton[]>();
	for (const it of buttons) groups.set(it.group, [...(groups.get(it.group) ?? []), it]);
	return [...groups];
}
