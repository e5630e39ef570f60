import { useQueryClient } from "@tanstack/react-query";
import { DropdownMenu } from "radix-ui";
import { useRef, useState } from "react";
import { useLocation } from "wouter";
import { answered, api, type ProjectState } from "../../api/client";
import { useCurrent, useShelf } from "../../api/project";

const ITEM = "cursor-pointer rounded-xl px-3 py-1.5 outline-none data-[highlighted]:bg-ground";

/** All projects: open one, start one, take a plan out as a file or bring one in. */
export function ShelfMenu() {
	const { id } = useCurrent();
	const shelf = useShelf();
	const client = useQueryClient();
	const [, go] = useLocation();
	const file = useRef<HTMLInputElement>(null);
	const [trouble, setTrouble] = useState("");
	const show = (next: ProjectState) => {
		client.setQueryData(["project", next.id], next);
		client.invalidateQueries({ queryKey: ["shelf"] });
		setTrouble("");
		go(`/projects/${next.id}`);
	};
	const say = (caught: unknown) => setTrouble(caught instanceof Error ? caught.message : "That did not work.");
	const start = (from: "empty" | "demo") => answered(api.POST("/api/projects", { body: { start: from } })).then(show, say);
	const bring = async (chosen: File) => {
		try {
			show(await answered(api.POST("/api/projects/import", { body: JSON.parse(await chosen.text()) })));
		} catch (caught) {
			say(caught instanceof SyntaxError ? new Error("This file is not JSON.") : caught);
		}
	};
	return (
		<>
			<DropdownMenu.Root>
				<DropdownMenu.Trigger className="text-note text-soft hover:text-ink">Projects</DropdownMenu.Trigger>
				<DropdownMenu.Portal>
					<DropdownMenu.Content
						align="end"
						sideOffset={8}
						className="z-50 max-h-[70vh] w-72 overflow-y-auto rounded-2xl bg-sheet p-2 shadow-[var(--shadow)]"
					>
						<DropdownMenu.Item className={`${ITEM} font-semibold`} onSelect={() => start("empty")}>
							New, empty
						</DropdownMenu.Item>
						<DropdownMenu.Item className={ITEM} onSelect={() => start("demo")}>
							New, from the demo
						</DropdownMenu.Item>
						<DropdownMenu.Item className={ITEM} onSelect={() => file.current?.click()}>
							Read a plan file
						</DropdownMenu.Item>
						<DropdownMenu.Item className={ITEM} asChild>
							<a href={`/api/projects/${id}/plan`} download="plan.json">
								Save this plan as a file
							</a>
						</DropdownMenu.Item>
						<DropdownMenu.Separator className="my-2 h-px bg-hair" />
						{shelf.data?.map((item) => (
							<DropdownMenu.Item
								key={item.id}
								className={`${ITEM} ${item.id === id ? "font-bold" : ""}`}
								onSelect={() => go(`/projects/${item.id}`)}
							>
								{item.title}
							</DropdownMenu.Item>
						))}
					</DropdownMenu.Content>
				</DropdownMenu.Portal>
			</DropdownMenu.Root>
			<input
				ref={file}
				type="file"
				accept="application/json,.json"
				aria-label="Plan file"
				className="hidden"
				onChange={(event) => {
					const chosen = event.currentTarget.files?.[0];
					event.currentTarget.value = "";
					if (chosen) bring(chosen);
				}}
			/>
			{trouble && (
				<p role="alert" className="absolute top-14 right-7 z-40 max-w-md rounded-2xl bg-cut px-4 py-3 text-note text-sheet">
					{trouble}{" "}
					<button type="button" className="underline" onClick={() => setTrouble("")}>
						Close
					</button>
				</p>
			)}
		</>
	);
}
