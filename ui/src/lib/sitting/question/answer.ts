import type { Schemas } from '$lib/api/client';

export type Shown = Schemas['Shown'];
export type AnyPart = Shown['parts'][number];
export type PartOf<T extends AnyPart['type']> = Extract<AnyPart, { type: T }>;
export type Option = { id: string; html: string };

/** An answer by part. Of an item with one part it is plain text, of several a JSON object from part to text. */
export function readAnswer(shown: Shown, answer: string): Record<string, string> {
	const first = shown.parts[0];
	if (shown.parts.length === 1 && first) return { [first.id]: answer };
	try {
		return answer ? (JSON.parse(answer) as Record<string, string>) : {};
	} catch {
		return {};
	}
}

export function writeAnswer(shown: Shown, parts: Record<string, string>): string {
	const first = shown.parts[0];
	if (shown.parts.length === 1 && first) return parts[first.id] ?? '';
	const said = Object.fromEntries(shown.parts.map((p) => [p.id, parts[p.id] ?? '']).filter(([, text]) => text));
	return Object.keys(said).length ? JSON.stringify(said) : '';
}

/** Whether every part has some answer. */
export function complete(shown: Shown, answer: string): boolean {
	const parts = readAnswer(shown, answer);
	return shown.parts.every((p) => (parts[p.id] ?? '') !== '');
}

export const inline = (part: AnyPart) => part.type === 'menu' || (part.type === 'entry' && part.inline);

export function pairs(answer: string): Record<string, string> {
	return Object.fromEntries(
		answer
			.split(';')
			.filter(Boolean)
			.map((p) => p.split('=') as [string, string])
	);
}

export function pairText(found: Record<string, string>, rows: Option[]): string {
	return rows
		.filter((r) => found[r.id])
		.map((r) => `${r.id}=${found[r.id]}`)
		.join(';');
}

export function moved<T>(list: T[], from: number, to: number): T[] {
	const next = [...list];
	const [one] = next.splice(from, 1);
	if (one !== undefined) next.splice(to, 0, one);
	return next;
}
