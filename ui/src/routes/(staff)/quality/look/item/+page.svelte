<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { tellKeys } from '$lib/state/keys.svelte';
	import { api, body, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import OptionRibbon from '$lib/parts/OptionRibbon.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, flagWords, percent, short } from '$lib/words/show';
	import Answers from '../Answers.svelte';
	import Decide from '../Decide.svelte';
	import FigurePanel from '../FigurePanel.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';
	import { view } from '../view.svelte';
	import Beside from './Beside.svelte';
	import Tries from './Tries.svelte';
	import Who from './Who.svelte';

	/** Everything about one item: as the student saw it, its answers and who gave them, beside others, what to try. */
	const code = $derived(address.get('item') ?? '');
	const all = new Asked((job) =>
		body(api.GET('/api/quality/overview', { params: { query: { ...address.scope, job } } }))
	);
	let again = $state(0);
	const asked = new Asked(
		() => body(api.GET('/api/quality/item', { params: { query: { ...address.scope, item: code } } })),
		() => `${code} ${again}`
	);
	let tried = $state('');
	let figure = $state<string | null>(null);
	const seen = $derived(asked.data);
	const item = $derived(all.data?.items.find((i) => i.item === code) ?? null);
	const order = $derived(all.data ? view.sorted(all.data.items) : []);
	const at = $derived(order.findIndex((i) => i.item === code));
	const notes = $derived(Object.fromEntries((seen?.notes ?? []).map((n) => [n.answer, n.note])));
	const others = $derived(item?.flags.slice(1) ?? []);
	const FIGURES = ['p', 'r_rest', 'd27', 'biserial', 'alpha_without'] as const;
	const TITLES: Record<string, string> = {
		p: 'correct',
		r_rest: 'r (rest)',
		d27: 'upper − lower 27%',
		biserial: 'biserial',
		alpha_without: 'alpha drop the item'
	};
	const value = (i: Schemas['ItemFigures'], name: string) =>
		name === 'p'
			? percent(i.p)
			: name === 'alpha_without'
				? short(i.alpha_without, 3)
				: name === 'biserial'
					? '…'
					: short(i[name as 'r_rest' | 'd27']);
	const long = $derived((seen?.answers ?? []).length > (item?.options.filter((o) => o.kind === 'answer').length ?? 0));

	function go(step: number) {
		const next = order[at + step];
		if (next) void address.set({ item: next.item, who: null });
	}
	function keys(event: KeyboardEvent) {
		if (
			(event.target as HTMLElement).matches('input, textarea, select') ||
			event.ctrlKey ||
			event.metaKey ||
			event.altKey
		)
			return;
		if (event.key === 'ArrowRight' || event.key === 'n') go(1);
		if (event.key === 'ArrowLeft' || event.key === 'p') go(-1);
	}
	tellKeys([
		['n →', 'the next item'],
		['p ←', 'the item before']
	]);
</script>

<svelte:window onkeydown={keys} />

<Notice text={asked.problem} />
{#if seen}
	<div class="small mb-1 flex flex-wrap items-center gap-x-2">
		<a class="word" href={address.href('/quality/look', { item: code })}>All items</a> · <code>{code}</code> · {#each seen.item.standards as s (s)}<StandardCode
				code={s}
			/>
		{/each}· {seen.item.points}
		{seen.item.points === 1 ? 'point' : 'points'} · {seen.item.kind}
		<span class="ml-auto flex gap-1"
			><Button kind="quiet" class="min-h-[26px]" disabled={at <= 0} onclick={() => go(-1)}>← before (p)</Button><Button
				kind="quiet"
				class="min-h-[26px]"
				disabled={at < 0 || at >= order.length - 1}
				onclick={() => go(1)}>next (n) →</Button
			></span
		>
	</div>
	<Finding
		of="Item"
		title={code}
		station="Item quality"
		class="mb-3 max-w-[900px] {item?.flags[0]?.weight === 'problem' ? '[&_.finding::first-line]:text-vermilion' : ''}"
	>
		{seen.finding}
	</Finding>
	<div class="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] items-start gap-3">
		<div class="min-w-0 space-y-3">
			<Panel label="Student view" class="p-4">
				<Sheet
					shown={seen.item.shown}
					stimulus={seen.item.stimulus}
					answer={tried}
					name="seen-{code}"
					onanswer={(answer) => (tried = answer)}
				/>
				<div class="mt-3 flex items-center gap-3 border-t border-hair pt-3 text-[13px]">
					<span class="small">Key <b class="text-ink">{seen.item.key || 'hand-scored'}</b></span>{#if item}<OptionRibbon
							options={item.options}
							notReached={item.n_not_reached}
							width={340}
						/>{/if}
				</div>
			</Panel>
			{#if item}
				<Panel label="Answers by score" class="p-4">
					<div class="small mb-1">
						Share of each answer, from the weakest to the strongest students on the rest of the test
					</div>
					<Answers
						{item}
						curves={seen.curves}
						{notes}
						onwho={staff.may('answers.read') ? (answer) => address.set({ who: answer || 'omitted' }) : undefined}
					/>
					{#if long}
						<details class="mt-2 text-[13px]">
							<summary class="cursor-pointer">Every answer that was given: {seen.answers.length}</summary>
							<div class="mt-1 columns-3 gap-6">
								{#each seen.answers as a (a.answer)}<div class="flex gap-2">
										<span class="min-w-0 flex-1 truncate {a.points > 0 ? 'font-semibold' : ''}">{a.answer}</span><span
											class="n">{a.n}</span
										>
									</div>{/each}
							</div>
						</details>
					{/if}
					<p class="small mt-2">{seen.says}</p>
				</Panel>
			{/if}
			{#if staff.may('answers.read')}<Who {code} {notes} />{/if}
		</div>
		<div class="min-w-0 space-y-3">
			{#if others.length}
				<Panel label="Also" class="p-4 text-[13.5px]">
					{#each others as f, n (f.flag + n)}<p class="mb-1 {f.weight === 'note' ? 'text-ink2' : ''}">
							<b class="font-semibold">{flagWords(f.flag)[0]?.toUpperCase()}{flagWords(f.flag).slice(1)}.</b>
							{f.why}
						</p>{/each}
				</Panel>
			{/if}
			<Panel label="What to decide" headed class="p-4">
				<Decide version={seen.item.version_id} lines={seen.verdicts} onsaid={() => again++} />
			</Panel>
			<Tries
				{code}
				suggestions={seen.suggestions}
				answers={seen.answers.map((a) => a.answer)}
				place={seen.place}
				window={seen.window_id}
			/>
			{#if item}
				<Panel label="Figures" class="p-4">
					<div class="flex flex-wrap gap-x-4 gap-y-1">
						{#each FIGURES.filter((f) => f !== 'biserial') as name (name)}
							<button
								class="cursor-pointer rounded p-1 text-left text-[12px] leading-tight text-ink2 hover:bg-wash"
								class:bg-wash={figure === name}
								aria-expanded={figure === name}
								onclick={() => (figure = figure === name ? null : name)}
								><b class="block text-[16px] text-ink">{value(item, name)}</b>{TITLES[name]}</button
							>
						{/each}
						<span class="p-1 text-[12px] leading-tight text-ink2"
							><b class="block text-[16px] text-ink">{item.n_omitted}</b>omitted</span
						>
						<span class="p-1 text-[12px] leading-tight text-ink2"
							><b class="block text-[16px] text-ink">{item.n_not_reached}</b>not reached</span
						>
						{#if seen.time?.median}<span class="p-1 text-[12px] leading-tight text-ink2"
								><b class="block text-[16px] text-ink">{Math.round(seen.time.median)} s</b>median time</span
							>{/if}
					</div>
					{#if figure}<div class="mt-1 border-l-2 border-petrol pl-3 text-[13.5px]">
							<FigurePanel {figure} item={code} compact />
						</div>{/if}
					{#if seen.time?.quartiles}<p class="small mt-1">
							Half of the students took {Math.round(seen.time.quartiles[0] ?? 0)} to {Math.round(
								seen.time.quartiles[1] ?? 0
							)} seconds{seen.time.rapid ? `; ${seen.time.rapid} answered too fast to have read it` : ''}.
						</p>{/if}
				</Panel>
			{/if}
			<Beside rows={seen.beside} line={all.data?.watch_line ?? 0.6} />
			{#if seen.marking.length}
				<Panel label="Double-scored" headed class="p-4">
					<Table class="text-[13px]">
						<thead
							><tr
								><th class="pl-0">Scorers</th><th class="n">Answers</th><th class="n">Same</th><th class="n"
									>Within 1</th
								><th class="n">Second gave</th><th class="n pr-0">Kappa</th></tr
							></thead
						>
						<tbody
							>{#each seen.marking as m (m.first + m.second)}<tr
									><td class="pl-0">{m.first}, {m.second}</td><td class="n">{m.n}</td><td class="n"
										>{percent(m.exact)}</td
									><td class="n">{percent(m.adjacent)}</td><td class="n"
										>{m.difference > 0 ? '+' : ''}{short(m.difference)}</td
									><td class="n pr-0">{short(m.weighted_kappa)}</td></tr
								>{/each}</tbody
						>
					</Table>
					<p class="small mt-1">Mean difference, second scorer minus first. Kappa is quadratically weighted.</p>
				</Panel>
			{/if}
			{#if seen.versions.length > 1}
				<Panel label="Versions" class="p-4 text-[13.5px]">
					<h2 class="mb-1">Revised</h2>
					<p class="small">
						{seen.versions.length} versions, the newest of {day(seen.versions[0]?.made ?? '')}. This is version {seen
							.item.number}.{#if staff.may('bank.read')}
							<a class="word" href="/bank/items/{seen.item.item_id}">Compare before and after</a>{/if}
					</p>
				</Panel>
			{/if}
			{#if seen.verdicts.length > 1}
				<Panel label="Earlier decisions" headed class="p-4 text-[13px]">
					{#each seen.verdicts.slice(1) as v (v.id)}<p class="mb-1">
							<b class="font-semibold">{v.words}</b>, version {v.version}: {v.reason}
							<span class="small">{v.by}, {day(v.at)}</span>
						</p>{/each}
				</Panel>
			{/if}
		</div>
	</div>
{:else if asked.busy}<p class="small" role="status">Reading answers …</p>{/if}
