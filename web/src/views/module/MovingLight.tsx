import { useEffect, useRef } from "react";

/** A light that blinks as a module's does; where motion is not wanted it stands still, and the words beside it say how it goes. */
export function MovingLight({ turns }: { turns: readonly number[] }) {
	const dot = useRef<SVGCircleElement>(null);
	useEffect(() => {
		const still = matchMedia("(prefers-reduced-motion: reduce)").matches;
		const whole = turns.reduce((sum, it) => sum + it, 0);
		if (still || turns.length < 2 || !dot.current) return;
		let past = 0;
		const frames = turns.flatMap((turn, at) => {
			const opacity = at % 2 ? 0 : 1;
			const from = past / whole;
			past += turn;
			return [
				{ opacity, offset: from },
				{ opacity, offset: past / whole },
			];
		});
		const moving = dot.current.animate(frames, { duration: whole * 1000, iterations: Number.POSITIVE_INFINITY });
		return () => moving.cancel();
	}, [turns]);
	return (
		<svg width={14} height={14} aria-hidden="true">
			<circle cx={7} cy={7} r={5.5} fill="none" className="stroke-ink" strokeWidth="1.5" />
			{turns.length > 0 && <circle ref={dot} cx={7} cy={7} r={4} className="fill-lamp" />}
		</svg>
	);
}
