import { useCallback, useRef, useState } from "react";
import { answered, api, Refusal } from "../../api/client";
import { useKept } from "../../api/project";
import type { components } from "../../api/schema";

type ReadBack = components["schemas"]["ReadBack"];
type State = { found?: ReadBack; error?: string; sent?: number; size?: number };

/** What a terminal kept, read by the server: a text at once, a file of any size while it is sent, until it is let go. */
export function useReading(node: string) {
	const { id } = useKept();
	const [state, setState] = useState<State>({});
	const sending = useRef<XMLHttpRequest | null>(null);

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
			// Not fetch: only this tells how far a file has gone.
			const it = new XMLHttpRequest();
			sending.current = it;
			setState({ sent: 0, size: file.size });
			it.upload.onprogress = (event) => setState({ sent: event.loaded, size: file.size });
			it.onload = () => {
				const body = it.response as (ReadBack & { detail?: string }) | null;
				const failed = new Refusal(it.status, "", "", body?.detail || `The server answered ${it.status}.`);
				setState(it.status === 200 && body ? { found: body } : { error: failed.message });
			};
			it.onerror = () => setState({ error: "The server does not answer. Is it still running? Nothing you kept is lost." });
			it.onabort = () => setState({ error: "Let go: nothing of it was kept." });
			it.open("POST", `/api/projects/${id}/module/${node}/read-back/file?heard_bd=${heardBd}`);
			it.responseType = "json";
			it.setRequestHeader("content-type", "application/octet-stream");
			it.send(file);
		},
		[id, node],
	);

	const letGo = useCallback(() => sending.current?.abort(), []);
	return { ...state, isReading: state.sent !== undefined, readText, readFile, letGo };
}

export type Reading = ReturnType<typeof useReading>;
