import type { CircuitShown } from "../../api/client";
import { useKept } from "../../api/project";

type Props = { circuits: readonly CircuitShown[] };

/** Each lamp drive and level shift by itself, as drawn for paper; pressed, it is taken as a file. */
export function CircuitList({ circuits }: Props) {
	const { id, revision } = useKept();
	return (
		<ul className="mt-2 grid gap-4 desk:grid-cols-2">
			{circuits.map((it) => {
				const address = `/api/projects/${id}/bench/file?what=schematics&revision=${revision}&of=${encodeURIComponent(it.id)}`;
				return (
					<li key={it.id} className="break-inside-avoid rounded-xl border border-hair bg-white p-3">
						<a href={address} download className="block text-note text-black">
							<span className="font-semibold">{it.label}</span>
							<img src={address} alt={`Circuit of ${it.label}`} loading="lazy" className="mx-auto mt-1 max-h-40 max-w-full" />
						</a>
					</li>
				);
			})}
		</ul>
	);
}
