import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { ActionButton } from "../../ui/ActionButton";
import { Window } from "../../ui/Window";

/** How a phone at the bench gets in: an address with a token, to photograph or to type, and a new token where it got about. */
export function LanWindow({ isOpen, onClose }: { isOpen: boolean; onClose: () => void }) {
	return (
		<Window title="Open on a phone" isOpen={isOpen} onClose={onClose}>
			<WaysIn />
		</Window>
	);
}

function WaysIn() {
	const client = useQueryClient();
	const { data, error } = useQuery({ queryKey: ["lan"], queryFn: () => answered(api.GET("/api/lan")), staleTime: 0 });
	const renewal = useMutation({
		mutationFn: () => answered(api.POST("/api/lan/token")),
		onSuccess: (next) => client.setQueryData(["lan"], next),
	});
	if (!data) return <p className="mt-3">{error?.message ?? "Looking for the ways in…"}</p>;
	if (!data.is_here) return <p className="mt-3">The way in is shown on the machine where Odd Lamp runs, under the same name.</p>;
	if (!data.is_open)
		return (
			<p className="mt-3">
				Only this machine gets in now. Stop Odd Lamp and start it with <code className="font-number">--lan</code> to open it to
				your own network: <code className="font-number">oddlamp serve --lan</code>
			</p>
		);
	return (
		<div className="mt-3 space-y-4">
			<p>
				A phone on the same network opens it by its camera, or by the address. Whoever has the address can read and change your
				projects, and what is sent is not encrypted: use it on a network you trust.
			</p>
			{data.ways.map(({ address, qr }) => (
				<figure key={address} className="flex flex-wrap items-center gap-5">
					<img src={qr} alt={`QR code of ${address}`} className="w-44 rounded-2xl" />
					<figcaption className="min-w-0 break-all font-number">{address}</figcaption>
				</figure>
			))}
			{data.ways.length === 0 && <p>This machine is on no network now. Once it is, start Odd Lamp again.</p>}
			<ActionButton onPress={() => renewal.mutate()}>Make a new token</ActionButton>
			<p role="status" className="text-note text-soft">
				{renewal.error?.message ?? (renewal.isSuccess ? "A new one was made; phones with the old one are out." : "")}
			</p>
		</div>
	);
}
