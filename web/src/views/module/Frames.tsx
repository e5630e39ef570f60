import { useState } from "react";
import type { Module } from "./ModuleView";

/** Raw bytes as a phone writes them: in hex and decimal side by side; and how a word parts into packets. */
export function Frames({ module }: { module: Module }) {
	const [word, setWord] = useState("");
	const most = module.packet_bytes;
	const length = new TextEncoder().encode(word).length;
	const packets: number[] = [];
	for (let left = length; most && left > 0; left -= most) packets.push(Math.min(left, most));
	return (
		<div className="mt-2 space-y-4 text-note">
			{most !== null && most !== undefined && (
				<div>
					<label className="text-soft">
						A word that goes over the air
						<input
							value={word}
							maxLength={400}
							onChange={(event) => setWord(event.currentTarget.value)}
							className="block w-full max-w-md border-ink border-b-2 bg-transparent py-1 font-number text-base text-ink"
						/>
					</label>
					<p>
						{length === 0
							? `One packet carries ${most} bytes, unless both ends agree on more.`
							: packets.length === 1
								? `${length} bytes: one packet.`
								: `${length} bytes go as ${packets.join(" + ")}: what listens has to put them together again.`}
					</p>
				</div>
			)}
			{module.frames.length > 0 && (
				<table>
					<thead>
						<tr className="text-left text-soft">
							<th className="pr-6 font-normal">what</th>
							<th className="pr-6 font-normal">hex</th>
							<th className="pr-6 font-normal">decimal</th>
							<th className="font-normal">its bytes</th>
						</tr>
					</thead>
					<tbody>
						{module.frames.map((it) => (
							<tr key={it.hex} className="border-hair border-t align-baseline">
								<td className="pr-6">{it.label}</td>
								<td className="pr-6 font-number">{it.hex}</td>
								<td className="pr-6 font-number">{it.decimal}</td>
								<td className="text-soft">{it.pieces.map(([hex, means]) => `${hex} ${means}`).join(", ")}</td>
							</tr>
						))}
					</tbody>
				</table>
			)}
		</div>
	);
}
