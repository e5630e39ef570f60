import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Pictures } from "./pictures/Pictures";

/** Ten thousand builds of one line with parts drawn inside their spreads: how its current or its volts fall out. */
export function Builds({ signal }: { signal: string }) {
	const { id, revision } = useKept();
	const [isAsked, setAsked] = useState(false);
	const drawn = useQuery({
		queryKey: ["builds", id, revision, signal],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/builds", { params: { path: { project_id: id }, query: { signal, seed: 1 } } }),
			),
		enabled: isAsked,
		placeholderData: (before) => before,
	});
	return (
		<div>
			<ActionButton isQuiet onPress={() => setAsked(!isAsked)}>
				{isAsked ? "Hide the ten thousand builds" : "Build it ten thousand times"}
			</ActionButton>
			{isAsked && (
				<div role="status" className="mt-2 space-y-2">
					<p className="text-note">{drawn.data?.sentence ?? drawn.error?.message ?? "building…"}</p>
					{drawn.data && <Pictures pictures={[drawn.data.picture]} />}
				</div>
			)}
		</div>
	);
}
