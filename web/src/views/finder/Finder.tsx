import { Command } from "cmdk";
import type { Action } from "../../keys";
import { Window } from "../../ui/Window";

type Found = Action & { group: string };
type Props = { actions: readonly Action[]; found: readonly Found[]; onClose: () => void };

/** Whether every word typed stands somewhere in what the item says. */
const holdsAll = (_: string, typed: string, said: string[] = []) => {
	const text = said.join(" ").toLowerCase();
	const words = typed.toLowerCase().split(/\s+/).filter(Boolean);
	return words.every((word) => text.includes(word)) ? (said[0]?.toLowerCase().startsWith(words[0] ?? "") ? 1 : 0.5) : 0;
};

/** Type a few letters of anything: a stage, a way out, a button of the phone, a number. */
export function Finder({ isOpen, ...rest }: Props & { isOpen: boolean }) {
	return (
		<Window title="Find" isOpen={isOpen} onClose={rest.onClose} isTitleShown={false}>
			<Everything {...rest} />
		</Window>
	);
}

function Everything({ actions, found, onClose }: Props) {
	const all: Found[] = [...found, ...actions.filter((it) => !it.isOff).map((it) => ({ ...it, group: "Do" }))];
	const groups = [...new Set(all.map((it) => it.group))];
	return (
		<Command label="Find" filter={holdsAll} className="flex min-h-0 flex-col">
			<Command.Input
				placeholder="Find a stage, a number, a way out…"
				className="w-full border-ink border-b-2 bg-transparent pb-2 font-said text-xl outline-none placeholder:text-soft"
			/>
			<Command.List className="mt-2 max-h-[60vh] overflow-y-auto" tabIndex={0}>
				<Command.Empty className="py-3 text-soft">Nothing here goes by that.</Command.Empty>
				{groups.map((group) => (
					<Command.Group key={group} heading={group} className="pt-2 text-note text-soft">
						{all
							.filter((it) => it.group === group)
							.map((it) => (
								<Command.Item
									key={it.id}
									value={`${it.group} ${it.id}`}
									keywords={[it.label, it.hint ?? "", it.group]}
									onSelect={() => {
										onClose();
										it.run();
									}}
									className="flex cursor-pointer items-baseline gap-3 rounded-xl px-3 py-1.5 text-base text-ink data-[selected=true]:bg-lampsoft"
								>
									<span className="font-semibold">{it.label}</span>
									<span className="min-w-0 flex-1 truncate text-note text-soft">{it.hint}</span>
									{it.key && <kbd className="font-number text-soft text-xs">{it.key.split(" ")[0]}</kbd>}
								</Command.Item>
							))}
					</Command.Group>
				))}
			</Command.List>
		</Command>
	);
}
