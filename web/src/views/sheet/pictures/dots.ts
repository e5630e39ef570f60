const FULL_BITS = 12;

/** The colours of dots as they come: how many bits tell each, the colours, and the bits; or 12 bits each, without a list. */
export function coloursOf(text: string, count: number): readonly string[] {
	const [bits, listed = "", digits = ""] = text.split(":");
	const each = Number(bits);
	if (!each) return [];
	if (each === FULL_BITS) return Array.from({ length: count }, (_, at) => `#${digits.slice(3 * at, 3 * at + 3)}`);
	const perDigit = 4 / each;
	return Array.from({ length: count }, (_, at) => {
		const digit = Number.parseInt(digits[Math.floor(at / perDigit)] ?? "0", 16);
		const place = (digit >> (4 - each * ((at % perDigit) + 1))) & (2 ** each - 1);
		return `#${listed.slice(6 * place, 6 * place + 6)}`;
	});
}

export const isDark = (colour: string | undefined) => !colour || /^#0+$/.test(colour);
