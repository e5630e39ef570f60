import { useState } from "react";
import type { EntryShown } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Window } from "../../ui/Window";
import { usePhoto } from "./useLog";

type Photo = EntryShown["photos"][number];
const NOT_TOLD = "A photo that nobody has described yet";

/** The photos of an entry, small; each opens large, to be described or taken off. */
export function Photos({ entry }: { entry: EntryShown }) {
	const { id } = useKept();
	const { act, trouble } = usePhoto();
	const [open, setOpen] = useState<Photo | null>(null);
	const off = entry.thrown_photos ?? [];
	return (
		<>
			{entry.photos.length > 0 && (
				<ul className="mt-2 flex flex-wrap gap-2">
					{entry.photos.map((it) => (
						<li key={it.id}>
							<button type="button" onClick={() => setOpen(it)} className="block">
								<img
									src={`/api/projects/${id}/log/photos/${it.id}?is_small=true`}
									alt={it.alt || NOT_TOLD}
									width={it.width_px}
									height={it.height_px}
									loading="lazy"
									className="h-28 w-auto rounded-xl bg-ground object-cover max-[720px]:h-36"
								/>
							</button>
						</li>
					))}
				</ul>
			)}
			{off.length > 0 && (
				<p className="mt-1 text-note text-soft print:hidden">
					{off.length === 1 ? "A photo is" : `${off.length} photos are`} taken off.{" "}
					<ActionButton isQuiet onPress={() => off.map((it) => act({ photo: it.id, isThrown: false }))}>
						Put back
					</ActionButton>
				</p>
			)}
			{trouble && <p role="alert">{trouble}</p>}
			<Window title={open?.alt || "Photo"} isOpen={open !== null} onClose={() => setOpen(null)}>
				{open && (
					<Large
						key={open.id}
						photo={open}
						onTell={(alt) =>
							act({ photo: open.id, alt }).then(
								() => setOpen(null),
								() => undefined,
							)
						}
						onOff={() =>
							act({ photo: open.id, isThrown: true }).then(
								() => setOpen(null),
								() => undefined,
							)
						}
					/>
				)}
			</Window>
		</>
	);
}

function Large({ photo, onTell, onOff }: { photo: Photo; onTell: (alt: string) => void; onOff: () => void }) {
	const { id } = useKept();
	const [alt, setAlt] = useState(photo.alt);
	return (
		<form
			className="mt-3 space-y-3"
			onSubmit={(event) => {
				event.preventDefault();
				onTell(alt.trim());
			}}
		>
			<img
				src={`/api/projects/${id}/log/photos/${photo.id}`}
				alt={photo.alt || NOT_TOLD}
				width={photo.width_px}
				height={photo.height_px}
				className="max-h-[55vh] w-full rounded-xl object-contain"
			/>
			<label className="block text-note text-soft">
				What is to be seen on it, for who can't see it
				<input
					value={alt}
					maxLength={300}
					onChange={(event) => setAlt(event.currentTarget.value)}
					className="block w-full border-ink border-b-2 bg-transparent py-1 text-base text-ink"
				/>
			</label>
			<p className="flex flex-wrap gap-x-6">
				<ActionButton type="submit">Keep that</ActionButton>
				<ActionButton isQuiet onPress={onOff}>
					Take it off
				</ActionButton>
			</p>
		</form>
	);
}
