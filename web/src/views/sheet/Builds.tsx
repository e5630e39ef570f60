import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { useEdit } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";

/** Ten thousand builds of one channel with parts drawn inside their spreads: how the current falls out. */
export function Builds({ lamp, channel }: { lamp: string; channel: string }) {
	const { kept } = useEdit();
	const [isAsked, setAsked] = useState(false);
	const drawn = useQuery({
		queryKey: ["builds", kept.id, kept.revision, lamp, channel],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/builds", {
					params: { path: { project_id: kept.id }, query: { lamp, channel, seed: 1 } },
				}),
			),
		enabled: isAsked,
	});
	const most = Math.max(1, ...(drawn.data?.bins.map((bin) => bin.count) ?? []));
	return (
		<div>
			<ActionButton isQuiet onPress={() => setAsked(!isAsked)}>
				{isAsked ? "Hide the ten thousand builds" : "Build it ten thousand times"}
			</ActionButton>
			{isAsked && (
				<div role="status" className="mt-2">
					<p className="text-note">{drawn.data?.sentence ?? drawn.error?.message ?? "building…"}</p>
					{drawn.data && (
						<svg width="320" height="70" role="img" aria-label={drawn.data.sentence} className="mt-1">
							{drawn.data.bins.map((bin, index) => (
								<rect
									key={bin.from_a}
									x={index * 8}
									y={66 - (bin.count / most) * 62}
									width="7"
									height={(bin.count / most) * 62 + 2}
									rx="2"
									className="fill-ink"
								/>
							))}
						</svg>
					)}
				</div>
			)}
		</div>
	);
}
