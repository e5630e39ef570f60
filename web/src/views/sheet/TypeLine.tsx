import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useId, useState } from "react";
import { answered, api } from "../../api/client";
import { useAsked } from "../../api/project";
import { BytesPicture } from "./pictures/BytesPicture";

/** A line typed as in the phone's terminal: its bytes on the wire, and what the listener makes of them. */
export function TypeLine({ vocabulary, example }: { vocabulary: string; example: string }) {
	const asked = useAsked();
	const id = useId();
	const [typed, setTyped] = useState("");
	const text = useDeferredValue(typed);
	const found = useQuery({
		queryKey: ["typed-line", asked, vocabulary, text],
		queryFn: () =>
			answered(api.POST("/api/projects/{project_id}/typed-line", { ...asked, body: { ...asked.body, vocabulary, text } })),
		enabled: text !== "",
		placeholderData: (before) => before,
		retry: false,
	});
	const heard = text && !found.error ? found.data : undefined;
	return (
		<div className="print:hidden">
			<label htmlFor={id} className="text-note text-soft">
				Type a line as on the phone, and see what is heard
			</label>
			<input
				id={id}
				value={typed}
				placeholder={example}
				onChange={(event) => setTyped(event.target.value)}
				spellCheck={false}
				autoComplete="off"
				maxLength={64}
				className="block w-72 max-w-full border-hair border-b-2 bg-transparent pb-0.5 font-number text-lg"
			/>
			<p role="status" className={`mt-1 min-h-6 ${heard && !heard.is_heard ? "text-cut" : ""}`}>
				{text && found.error ? found.error.message : heard?.sentence}
			</p>
			{heard && <BytesPicture picture={heard.picture} />}
		</div>
	);
}
