import { memo } from "react";
import type { Chart, Picture } from "../../../api/client";
import { BytesPicture } from "./BytesPicture";
import { ChartPicture } from "./ChartPicture";
import { OutlinePicture } from "./OutlinePicture";
import { PlacesPicture } from "./PlacesPicture";
import { SchematicPicture } from "./SchematicPicture";
import { WakingPicture } from "./WakingPicture";

const isPart = (picture: Picture): picture is Chart => picture.kind === "chart" && picture.size !== "wide";

/** Pictures in their order; charts that take a part of the width stand side by side, read by one note where it is the same. */
export function Pictures({ pictures }: { pictures: readonly Picture[] }) {
	const groups: Picture[][] = [];
	for (const picture of pictures) {
		const last = groups.at(-1);
		if (last?.[0] && isPart(picture) && isPart(last[0])) last.push(picture);
		else groups.push([picture]);
	}
	return groups.map((group, index) => (
		// biome-ignore lint/suspicious/noArrayIndexKey: a picture has no identity but its place
		<Group key={index} group={group} />
	));
}

function Group({ group }: { group: readonly Picture[] }) {
	const notes = [...new Set(group.map((it) => ("note" in it ? it.note : "")).filter(Boolean))];
	return (
		<div>
			<div className={group.some(isPart) ? "flex flex-wrap gap-x-6 gap-y-3" : ""}>
				{group.map((picture, index) => (
					// biome-ignore lint/suspicious/noArrayIndexKey: a picture has no identity but its place
					<One key={index} picture={picture} />
				))}
			</div>
			{notes.map((note) => (
				<p key={note} className="mt-1 text-soft text-xs">
					{note}
				</p>
			))}
		</div>
	);
}

const One = memo(function One({ picture }: { picture: Picture }) {
	switch (picture.kind) {
		case "chart":
			return <ChartPicture picture={picture} />;
		case "circuit":
			return <SchematicPicture picture={picture} />;
		case "outline":
			return <OutlinePicture picture={picture} />;
		case "bytes":
			return <BytesPicture picture={picture} />;
		case "places":
			return <PlacesPicture picture={picture} />;
		case "waking":
			return <WakingPicture picture={picture} />;
	}
});
