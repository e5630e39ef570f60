import { useEffect, useState } from "react";

/** Keep the screen awake while the sheet is open, where the browser can; tells where it can't. */
export function useAwake(): string {
	const [told, setTold] = useState("");
	useEffect(() => {
		if (!("wakeLock" in navigator)) {
			setTold("This screen may go dark: browsers keep it awake only over HTTPS, or on this machine itself.");
			return;
		}
		let lock: WakeLockSentinel | undefined;
		const hold = () => {
			if (document.visibilityState === "visible")
				navigator.wakeLock.request("screen").then(
					(it) => {
						lock = it;
					},
					() => setTold("This browser lets the screen go dark."),
				);
		};
		hold();
		document.addEventListener("visibilitychange", hold);
		return () => {
			document.removeEventListener("visibilitychange", hold);
			lock?.release();
		};
	}, []);
	return told;
}
