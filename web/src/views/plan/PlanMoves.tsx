import { memo } from "react";
import type { Move } from "../../api/client";
import { useEdits } from "../../api/project";
import { MoveRow } from "../../ui/MoveRow";

/** Changes of the plan that are offered where they belong. */
export const PlanMoves = memo(function PlanMoves({ moves }: { moves: readonly Move[] }) {
	const { change } = useEdits();
	return <MoveRow moves={moves} onMove={(move) => change({ patch: move.patch, summary: move.label })} />;
});
