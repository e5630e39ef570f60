import type { Move } from "../api/client";
import { ActionButton } from "./ActionButton";

/** Changes that are offered, each as a word to press. */
export function MoveRow({ moves, onMove }: { moves: readonly Move[]; onMove: (move: Move) => void }) {
	if (!moves.length) return null;
	return (
		<p className="flex flex-wrap gap-x-5 gap-y-2">
			{moves.map((move) => (
				<ActionButton key={move.label} isQuiet onPress={() => onMove(move)}>
					{move.label}
				</ActionButton>
			))}
		</p>
	);
}
