import type { ReactNode } from "react";
import { Link } from "wouter";
import { useKept } from "../../api/project";

/** Leads to another sheet of the same project. */
export function SheetLink({ to, children }: { to: string; children: ReactNode }) {
	const { id } = useKept();
	return (
		<p>
			<Link href={`/projects/${id}?stage=${encodeURIComponent(to)}`} className="underline decoration-copper underline-offset-4">
				{children}
			</Link>
		</p>
	);
}
