import type { Sheet } from "../../api/client";
import { useEdit } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Elsewhere } from "./Elsewhere";
import { PanelView } from "./PanelView";
import { PinRows } from "./PinRows";
import { BytesPicture } from "./pictures/BytesPicture";
import { CurrentPicture } from "./pictures/CurrentPicture";
import { CurvePictures } from "./pictures/CurvePicture";
import { EdgePicture } from "./pictures/EdgePicture";
import { OutlinePicture } from "./pictures/OutlinePicture";
import { SchematicPicture } from "./pictures/SchematicPicture";
import { WindowPicture } from "./pictures/WindowPicture";
import { StageNumbers } from "./StageNumbers";
import { WordRows } from "./WordRows";

/** What lies under a stage: the answer in one sentence, one picture, then the schools and the values to turn. */
export function SheetView({ sheet }: { sheet: Sheet }) {
	const { change } = useEdit();
	return (
		<article aria-labelledby="sheet-sentence" className="space-y-5 px-8 py-5 pb-24 max-[720px]:px-5">
			<header>
				<p className="sr-only">{sheet.title}</p>
				<h2 id="sheet-sentence" className="text-balance font-bold font-said text-said leading-tight">
					{sheet.sentence}
				</h2>
				<p className="mt-1 text-soft">{sheet.detail}</p>
				{sheet.keep && (
					<p className="mt-2 print:hidden">
						<ActionButton isQuiet onPress={() => sheet.keep && change({ patch: sheet.keep.patch, summary: sheet.keep.label })}>
							{sheet.keep.label}
						</ActionButton>
					</p>
				)}
			</header>
			<Picture picture={sheet.picture} />
			{sheet.circuit && <SchematicPicture picture={sheet.circuit} />}
			{sheet.curves.length > 0 && <CurvePictures pictures={sheet.curves} />}
			{sheet.edge && <EdgePicture picture={sheet.edge} />}
			{sheet.panels.map((panel, index) => (
				<PanelView key={panel.title || String(index)} panel={panel} />
			))}
			{sheet.kind === "parts" && <Elsewhere />}
			{sheet.words.length > 0 && <WordRows words={sheet.words} />}
			{sheet.pins.length > 0 && <PinRows pins={sheet.pins} />}
			{sheet.moves.length > 0 && (
				<p className="flex flex-wrap gap-5">
					{sheet.moves.map((move) => (
						<ActionButton key={move.label} isQuiet onPress={() => change({ patch: move.patch, summary: move.label })}>
							{move.label}
						</ActionButton>
					))}
				</p>
			)}
			<StageNumbers stage={sheet.stage} />
		</article>
	);
}

function Picture({ picture }: { picture: Sheet["picture"] }) {
	switch (picture?.kind) {
		case "current":
			return <CurrentPicture picture={picture} />;
		case "window":
			return <WindowPicture picture={picture} />;
		case "outline":
			return <OutlinePicture picture={picture} />;
		case "bytes":
			return <BytesPicture picture={picture} />;
		default:
			return null;
	}
}
