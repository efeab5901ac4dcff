<script lang="ts">
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

<svelte:head><title>{code} · Item quality · Bildung</title></svelte:head>
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
			><button class="btn quiet min-h-[26px]" disabled={at <= 0} onclick={() => go(-1)}>← before (p)</button><button
				class="btn quiet min-h-[26px]"
				disabled={at < 0 || at >= order.length - 1}
				onclick={() => go(1)}>next (n) →</button
			></span
		>
	</div>
	<h1 class="mb-3 max-w-[900px] {item?.flags[0]?.weight === 'problem' ? '[&::first-line]:text-vermilion' : ''}">
		{seen.finding}
	</h1>
	<div class="grid grid-cols-[minmax(0,1.25fr)_minmax(0,1fr)] items-start gap-3">
		<div class="min-w-0 space-y-3">
			<section class="sheet p-4" aria-label="Student view">
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
			</section>
			{#if item}
				<section class="sheet p-4" aria-label="Answers by score">
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
				</section>
			{/if}
			{#if staff.may('answers.read')}<Who {code} {notes} />{/if}
		</div>
		<div class="min-w-0 space-y-3">
			{#if others.length}
				<section class="sheet p-4 text-[13.5px]" aria-label="Also">
					{#each others as f, n (f.flag + n)}<p class="mb-1 {f.weight === 'note' ? 'text-ink2' : ''}">
							<b class="font-semibold">{flagWords(f.flag)[0]?.toUpperCase()}{flagWords(f.flag).slice(1)}.</b>
							{f.why}
						</p>{/each}
				</section>
			{/if}
			<section class="sheet p-4" aria-label="What to decide">
				<h2 class="mb-2">What to decide</h2>
				<Decide version={seen.item.version_id} lines={seen.verdicts} onsaid={() => again++} />
			</section>
			<Tries {code} suggestions={seen.suggestions} answers={seen.answers.map((a) => a.answer)} />
			{#if item}
				<section class="sheet p-4" aria-label="Figures">
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
				</section>
			{/if}
			<Beside rows={seen.beside} line={all.data?.watch_line ?? 0.6} />
			{#if seen.marking.length}
				<section class="sheet p-4" aria-label="Double-scored">
					<h2 class="mb-1">Double-scored</h2>
					<table class="text-[13px]">
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
					</table>
					<p class="small mt-1">Mean difference, second scorer minus first. Kappa is quadratically weighted.</p>
				</section>
			{/if}
			{#if seen.versions.length > 1}
				<section class="sheet p-4 text-[13.5px]" aria-label="Versions">
					<h2 class="mb-1">Revised</h2>
					<p class="small">
						{seen.versions.length} versions, the newest of {day(seen.versions[0]?.made ?? '')}. This is version {seen
							.item.number}.{#if staff.may('bank.read')}
							<a class="word" href="/bank/items/{seen.item.item_id}">Compare before and after</a>{/if}
					</p>
				</section>
			{/if}
			{#if seen.verdicts.length > 1}
				<section class="sheet p-4 text-[13px]" aria-label="Earlier decisions">
					<h2 class="mb-1">Earlier decisions</h2>
					{#each seen.verdicts.slice(1) as v (v.id)}<p class="mb-1">
							<b class="font-semibold">{v.words}</b>, version {v.version}: {v.reason}
							<span class="small">{v.by}, {day(v.at)}</span>
						</p>{/each}
				</section>
			{/if}
		</div>
	</div>
{:else if asked.busy}<p class="small" role="status">Reading answers …</p>{/if}
