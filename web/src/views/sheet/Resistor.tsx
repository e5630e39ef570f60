import { memo } from "react";
import type { Panel } from "../../api/client";

/** The real colours of the bands: they are what one looks for in the drawer, so no theme changes them. */
const PAINT: Record<string, string> = {
	black: "#17141a",
	brown: "#7a4524",
	red: "#c4202c",
	orange: "#ef7d1a",
	yellow: "#f2cf1d",
	green: "#2f8f46",
	blue: "#2a5cc4",
	violet: "#7038a8",
	grey: "#8b8b90",
	white: "#f7f6f2",
	gold: "#b98a1c",
	silver: "#b9bcc2",
};

/** A resistor to reach for: its value, its bands, and the mark it has as a chip. */
export const Resistor = memo(function Resistor({ resistor }: { resistor: Panel["resistors"][number] }) {
	const { bands, label, smd } = resistor;
	return (
		<li className="flex items-center gap-3">
			{bands.length > 0 && (
				<svg width="96" height="30" viewBox="0 0 132 40" role="img" aria-label={`Bands: ${bands.join(", ")}`}>
					<title>{bands.join(", ")}</title>
					<path d="M0 20H132" className="stroke-soft" strokeWidth="3" />
					<rect x="24" y="5" width="84" height="30" rx="13" fill="#dccba6" />
					{bands.map((band, index) => {
						const isLast = index === bands.length - 1 && bands.length > 3;
						// biome-ignore lint/suspicious/noArrayIndexKey: bands have no identity but their place
						return <rect key={index} x={isLast ? 94 : 34 + index * 15} y="5" width="7" height="30" fill={PAINT[band]} />;
					})}
				</svg>
			)}
			<span className="leading-tight">
				<span className="block font-number">{label}</span>
				<span className="block text-soft text-xs">
					as a chip <span className="font-number">{smd}</span>
				</span>
			</span>
		</li>
	);
});
