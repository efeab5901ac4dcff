<script lang="ts">
	import Checkbox from '$lib/design/Checkbox.svelte';
	import { plain } from '$lib/words/plain';
	import { type AnyPart } from '$lib/sitting/question/answer';
	import type { Scoring } from './kinds';

	/** Points of their own for single answers: each choice, accepted answer, pair or area with what it is worth. */
	let { part, scoring, onchange }: { part: AnyPart; scoring: Scoring; onchange: () => void } = $props();
	const picks = $derived(
		part.type === 'hot_text'
			? [...part.text.matchAll(/<span data-pick="(\w+)">([\s\S]*?)<\/span>/g)].map((m) => ({
					id: m[1] ?? '',
					html: m[2] ?? ''
				}))
			: []
	);
	const several = $derived(
		part.type === 'match' || part.type === 'hot_text' || (part.type === 'choice' && part.most !== 1)
	);
	const keys = $derived(
		scoring.key
			.split('~')[0]!
			.split(
				part.type === 'hot_text' || (part.type === 'choice' && part.most !== 1)
					? '+'
					: part.type === 'match'
						? ';'
						: /(?<!\\)\|/
			)
			.map((k) => k.trim().replaceAll('\\|', '|'))
			.filter(Boolean)
	);
	const rows = $derived.by((): { answer: string; words: string }[] => {
		if (part.type === 'choice' || part.type === 'menu')
			return part.options.map((o) => ({ answer: o.id, words: `${o.id}  ${plain(o.html)}` }));
		if (part.type === 'hot_text') return picks.map((p) => ({ answer: p.id, words: plain(p.html) }));
		if (part.type === 'entry') return keys.map((k) => ({ answer: k, words: k }));
		if (part.type === 'point') return keys.map((k, at) => ({ answer: String(at + 1), words: `area ${at + 1}: ${k}` }));
		if (part.type === 'match')
			return part.rows.flatMap((r) =>
				part.columns.map((c) => ({
					answer: `${r.id}=${c.id}`,
					words: `${plain(r.html) || r.id} → ${plain(c.html) || c.id}`
				}))
			);
		return [];
	});
	const able = $derived(['choice', 'menu', 'hot_text', 'entry', 'point', 'match'].includes(part.type));
	const on = $derived(scoring.credit.length > 0);
	const isKey = (answer: string) =>
		part.type === 'match'
			? keys.some(
					(k) =>
						k.split('=')[0] === answer.split('=')[0] &&
						(k.split('=')[1] ?? '').split('|').includes(answer.split('=')[1] ?? '')
				)
			: part.type === 'point' || keys.includes(answer);
	const worth = (answer: string) =>
		scoring.credit.find((c) => c.answer === answer)?.points ?? (several ? 0 : isKey(answer) ? scoring.points : 0);

	function put(answer: string, text: string) {
		const points = Number(text.replace(',', '.'));
		if (!Number.isFinite(points)) return;
		scoring.credit = rows
			.map((r) => ({ answer: r.answer, points: r.answer === answer ? points : worth(r.answer) }))
			.filter((c) =>
				several
					? c.points !== 0
					: !(isKey(c.answer) && c.points === scoring.points) &&
						(part.type === 'entry' || part.type === 'point' || c.points !== 0)
			);
		total();
		onchange();
	}

	/** The part is worth what its best answer earns: of several, what the right ones add up to. */
	function total() {
		if (!several)
			scoring.points =
				Math.max(...rows.filter((r) => isKey(r.answer)).map((r) => worth(r.answer)), 0) || scoring.points;
		else
			scoring.points =
				rows.filter((r) => isKey(r.answer)).reduce((sum, r) => sum + worth(r.answer), 0) || scoring.points;
		if (scoring.lowest >= scoring.points) scoring.lowest = 0;
	}

	function turn(yes: boolean) {
		if (!yes) [scoring.credit, scoring.lowest] = [[], 0];
		else {
			scoring.partial = false;
			const right = rows.filter((r) => isKey(r.answer));
			const other = rows.find((r) => !isKey(r.answer)) ?? right[1];
			scoring.credit = several
				? right.map((r) => ({ answer: r.answer, points: scoring.points / right.length }))
				: other
					? [{ answer: other.answer, points: scoring.points / 2 }]
					: [];
		}
		onchange();
	}
</script>

{#if able && scoring.points > 0 && rows.length > 1}
	<Checkbox checked={on} onchange={(on) => turn(on)} class="mt-2">score each answer separately</Checkbox>
	{#if on}
		<fieldset class="mt-1 rounded border border-hair p-2">
			<legend class="small px-1"
				>Points for each {part.type === 'match'
					? 'pair'
					: part.type === 'point'
						? 'area'
						: several
							? 'choice; the points of all selected choices are added'
							: 'answer'}</legend
			>
			<div class="grid grid-cols-[repeat(auto-fill,minmax(230px,1fr))] gap-x-4 gap-y-1">
				{#each rows as row (row.answer)}
					<label class="flex items-center gap-2 text-[13px]"
						><input
							class="input mt-0 w-[64px] flex-none text-right"
							inputmode="decimal"
							value={worth(row.answer)}
							onchange={(e) => put(row.answer, e.currentTarget.value)}
						/><span class="min-w-0 truncate {isKey(row.answer) ? 'font-semibold' : ''}" title={row.words}
							>{row.words}</span
						></label
					>
				{/each}
			</div>
			<div class="mt-2 flex items-center gap-4 text-[13px]">
				<span>{scoring.points} {scoring.points === 1 ? 'point' : 'points'} at most</span>
				{#if several}<label class="flex items-center gap-2"
						>minimum <input
							class="input mt-0 w-[64px] text-right"
							inputmode="decimal"
							value={scoring.lowest}
							onchange={(e) => {
								const n = Number(e.currentTarget.value.replace(',', '.'));
								if (Number.isFinite(n) && n >= 0) {
									scoring.lowest = n;
									onchange();
								}
							}}
						/></label
					>{/if}
			</div>
		</fieldset>
	{/if}
{/if}
