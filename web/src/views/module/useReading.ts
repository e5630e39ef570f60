import { useCallback, useRef, useState } from "react";
import { answered, api } from "../../api/client";
import { sendFile } from "../../api/files";
import { useKept } from "../../api/project";
import type { components } from "../../api/schema";

type ReadBack = components["schemas"]["ReadBack"];
type State = { found?: ReadBack; error?: string; sent?: number; size?: number };

/** What a terminal kept, read by the server: a text at once, a file of any size while it is sent, until it is let go. */
export function useReading(node: string) {
	const { id } = useKept();
	const [state, setState] = useState<State>({});
	const sending = useRef<AbortController | null>(null);

	const readText = useCallback(
		async (text: string, heardBd: number) => {
			setState({ sent: 0, size: 0 });
			const call = api.POST("/api/projects/{project_id}/module/{node}/read-back", {
				params: { path: { project_id: id, node } },
				body: { text, heard_bd: heardBd },
			});
			await answered(call).then(
				(found) => setState({ found }),
				(error: Error) => setState({ error: error.message }),
			);
		},
		[id, node],
	);

	const readFile = useCallback(
		(file: File, heardBd: number) => {
			const going = new AbortController();
			sending.current = going;
			setState({ sent: 0, size: file.size });
			sendFile<ReadBack>(
				`/api/projects/${id}/module/${node}/read-back/file?heard_bd=${heardBd}`,
				file,
				(sent) => setState({ sent, size: file.size }),
				going.signal,
			).then(
				(found) => setState({ found }),
				(error: Error) => setState({ error: error.message }),
			);
		},
		[id, node],
	);

	const letGo = useCallback(() => sending.current?.abort(), []);
	return { ...state, isReading: state.sent !== undefined, readText, readFile, letGo };
}

export type Reading = ReturnType<typeof useReading>;
