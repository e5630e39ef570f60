import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../api/client";
import { useKept } from "../../api/project";
import { ActionButton } from "../../ui/ActionButton";
import { Pick } from "../../ui/Pick";
import type { Module } from "./ModuleView";
import { SPEEDS } from "./Talk";
import type { useConsole } from "./useConsole";

type Props = { module: Module; console: ReturnType<typeof useConsole> };
const TROUBLES = [
	["none", "as it should be"],
	["speed", "it speaks at another speed"],
	["crossed", "TX and RX swapped"],
	["ground", "no ground in common"],
	["linked", "a phone is linked to it"],
	["dead", "it is dead"],
] as const;
const BEGINS = [
	["new", "new, as it left the factory"],
	["set", "set as the plan says"],
] as const;

/** What is talked to: a stand-in of this module, in any version and with any trouble, or a real port of the machine. */
export function Opening({ module, console: it }: Props) {
	const { id } = useKept();
	const [isReal, setReal] = useState(false);
	const [version, setVersion] = useState("");
	const [trouble, setTrouble] = useState("none");
	const [begins, setBegins] = useState("new");
	const [port, setPort] = useState("");
	const [speed, setSpeed] = useState(module.speed_bd);
	const ports = useQuery({
		queryKey: ["ports", id, module.node],
		queryFn: () =>
			answered(
				api.GET("/api/projects/{project_id}/module/{node}/ports", { params: { path: { project_id: id, node: module.node } } }),
			),
		enabled: isReal,
		staleTime: 0,
	});
	if (it.isOpen)
		return (
			<p className="text-note text-soft">
				{it.isReal
					? `Talking to ${port || "a real port"}.`
					: `Talking to ${it.members.length > 1 ? "two stand-ins, within reach of each other" : "a stand-in"}${trouble === "none" ? "" : ", with trouble put in"}.`}
			</p>
		);
	const known = ports.data?.ports ?? [];
	return (
		<div className="space-y-3">
			<p className="text-note text-soft">
				{module.detail}{" "}
				<button type="button" onClick={() => setReal(!isReal)} className="border-hair border-b-2 text-ink hover:border-ink">
					{isReal ? "A stand-in instead" : "A real port instead"}
				</button>
			</p>
			<div className="flex flex-wrap items-end gap-x-6 gap-y-3">
				{isReal ? (
					<>
						<label className="text-note text-soft">
							Port
							<input
								list="ports"
								value={port}
								onChange={(event) => setPort(event.currentTarget.value)}
								className="block w-56 border-ink border-b-2 bg-transparent py-1 font-number text-ink"
							/>
							<datalist id="ports">
								{known.map((one) => (
									<option key={one.name} value={one.name}>
										{one.label}
									</option>
								))}
							</datalist>
						</label>
						<Pick
							label="at"
							value={String(speed)}
							options={SPEEDS.map((one) => [String(one), String(one)] as const)}
							onPick={(to) => setSpeed(Number(to))}
						/>
					</>
				) : (
					<>
						<Pick
							label="Version"
							value={version}
							options={[["", "as it mostly is"], ...module.versions.map((one) => [one.id, one.label] as const)]}
							onPick={setVersion}
						/>
						<Pick label="It begins" value={begins} options={BEGINS} onPick={setBegins} />
						<Pick label="Trouble" value={trouble} options={TROUBLES} onPick={setTrouble} />
					</>
				)}
				<ActionButton
					onPress={() =>
						it.open(module.node, { port: isReal ? port : "", speed: isReal ? speed : module.speed_bd, version, trouble, begins })
					}
				>
					{isReal ? "Open the port" : "Talk to it"}
				</ActionButton>
			</div>
			{isReal && ports.data && (
				<p className="text-note text-soft">
					{ports.data.is_allowed
						? known.length
							? `There ${known.length === 1 ? "is" : "are"} ${known.map((one) => one.name).join(", ")}. Nothing is opened before you press.`
							: "No serial port is plugged in here. loop:// gives back what you say."
						: "Real ports are opened only on the machine it runs on."}
				</p>
			)}
		</div>
	);
}
