import type { TableShown } from "../../api/client";

type Props = { table: TableShown; label: string };

/** A list as a table, its first column counted. */
export function TableList({ table, label }: Props) {
	return (
		<section
			className="overflow-x-auto"
			// biome-ignore lint/a11y/noNoninteractiveTabindex: what scrolls has to be reachable by keyboard
			tabIndex={0}
			aria-label={label}
		>
			<table className="mt-2 text-note">
				<thead>
					<tr>
						{table.head.map((it) => (
							<th key={it} scope="col" className="pr-6 pb-1 text-left font-normal text-soft">
								{it}
							</th>
						))}
					</tr>
				</thead>
				<tbody>
					{table.rows.map((row) => (
						<tr key={row.join("|")} className="border-hair border-t">
							{row.map((cell, at) => (
								<td key={table.head[at]} className={`py-1 pr-6 align-baseline ${at === 0 ? "font-number" : ""}`}>
									{cell}
								</td>
							))}
						</tr>
					))}
				</tbody>
			</table>
		</section>
	);
}
