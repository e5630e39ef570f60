import { useRef, useState } from "react";
import { fetchFile } from "../../api/files";
import type { Gone } from "../../ui/Going";

/** Taking a whole project away: how far it is, what went wrong, and a way to stop. */
export function useWhole() {
	const [gone, setGone] = useState<Gone | null>(null);
	const [trouble, setTrouble] = useState("");
	const going = useRef<AbortController | null>(null);
	const take = async (href: string, name: string) => {
		going.current?.abort();
		going.current = new AbortController();
		const what = "The whole project";
		setTrouble("");
		setGone({ what, done: 0, size: 0 });
		await fetchFile(href, name, (done, size) => setGone({ what, done, size }), going.current.signal).catch((error: Error) =>
			setTrouble(error.message),
		);
		setGone(null);
	};
	return { gone, trouble, take, stop: () => going.current?.abort(), close: () => setTrouble("") };
}
