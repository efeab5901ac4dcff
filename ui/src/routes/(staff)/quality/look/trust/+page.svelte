<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { decimal, percent, short } from '$lib/words/show';
	import FigurePanel from '../FigurePanel.svelte';
	import FigureText from '../FigureText.svelte';
	import Interval from '../Interval.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';
	import ErrorCurve from './ErrorCurve.svelte';

	/** How far to trust the total, the parts and a pass line. */
	const by = $derived(address.get('by') ?? 'standard');
	const cuts = $derived(
		address
			.all('cut')
			.map(Number)
			.filter((c) => c > 0 && c <= 100)
	);
	const asked = new Asked(
		(job) =>
			body(
				api.GET('/api/quality/trust', {
					params: { query: { ...address.scope, by, cut: cuts.map((c) => c / 100), job } }
				})
			),
		() => `${by} ${cuts}`
	);
	const data = $derived(asked.data);
	let figure = $state('alpha');
	let fresh = $state('');
	const NAMES: Record<string, string> = {
		alpha: 'alpha',
		omega: 'omega',
		lambda2: 'lambda 2',
		split_half: 'split half',
		kr21: 'KR-21',
		stratified_alpha: 'stratified alpha'
	};
	const most = $derived(Math.max(...(data?.trust.dimensions?.eigenvalues.slice(0, 10) ?? [1])));

	function add(event: SubmitEvent) {
		event.preventDefault();
		if (fresh) void address.set({ cut: [...new Set([...cuts, Number(fresh)])].sort((a, b) => a - b).map(String) });
		fresh = '';
	}
	const own = (name: string): [string, string][] => {
		const c = data?.trust.cuts.find((x) => x.name === name);
		return c?.result
			? [
					['classified correctly', percent(c.result.accuracy)],
					['same result on a second test', percent(c.result.consistency)],
					['pass', percent(c.passing)],
					['within one standard error of it', percent(c.near)],
					['true scores by', `${c.result.shape} ${c.result.shape === 'two' ? 'parameters' : ''}`]
				]
			: [];
	};
</script>

<Notice text={asked.problem} />
{#if data}
	{@const t = data.trust}
	<div class="beside flex items-start">
		<div class="min-w-0 flex-1 space-y-3 pr-4">
			<Finding of="Technical quality" station="Item quality" class="max-w-[860px]">{data.finding}</Finding>
			<div class="grid grid-cols-[minmax(0,1fr)_minmax(0,1.1fr)] gap-3">
				<Panel label="The total" headed class="p-4 text-[13.5px]">
					<Table>
						<tbody>
							{#each t.coefficients.filter((c) => c.value !== null || c.figure === 'alpha') as c (c.figure)}
								<tr
									><td class="h-7 pl-0"
										><button class="word" onclick={() => (figure = c.figure)}>{NAMES[c.figure]}</button></td
									><td class="h-7 w-[130px]"><Interval p={c.value} ci={c.ci95} width={130} /></td><td
										class="n h-7 pr-0 font-semibold">{short(c.value)}</td
									></tr
								>
							{/each}
							<tr
								><td class="h-7 pl-0"><button class="word" onclick={() => (figure = 'sem')}>standard error</button></td
								><td></td><td class="n h-7 pr-0 font-semibold">{decimal(t.sem)} points</td></tr
							>
						</tbody>
					</Table>
					{#each t.coefficients.filter((c) => c.value === null && c.figure !== 'alpha') as c (c.figure)}<p
							class="small"
						>
							{NAMES[c.figure]} is not stated: {c.why}.
						</p>{/each}
				</Panel>
				<Panel label="Standard error by score" headed class="p-4 text-[13.5px]">
					{#if t.errors.length}<ErrorCurve
							errors={t.errors}
							sem={t.sem}
							cuts={t.cuts}
							onopen={() => (figure = 'conditional_error')}
						/>
					{:else}<p class="small">
							Not stated by score: {t.conditional_why}. For everybody it is about {decimal(t.sem)} points.
						</p>{/if}
				</Panel>
			</div>
			<Panel label="Cut scores" class="p-4 text-[13.5px]">
				<div class="mb-1 flex items-center gap-3">
					<h2 class="flex-1">Cut score</h2>
					<form class="flex items-center gap-1.5" onsubmit={add}>
						<label class="small flex items-center gap-1.5"
							>another at <input
								class="input mt-0 min-h-[28px] w-[64px] text-right"
								type="number"
								min="1"
								max="100"
								bind:value={fresh}
							/> %</label
						><Button type="submit" class="min-h-[28px]">Look</Button>
					</form>
				</div>
				<Table>
					<thead
						><tr
							><th class="pl-0">Line</th><th class="n">Points</th><th class="n">Pass</th><th class="n">Accuracy</th><th
								class="n">Consistency</th
							><th>In words</th><th></th></tr
						></thead
					><tbody>
						{#each t.cuts as c (c.name)}<tr
								><td class="pl-0 font-semibold whitespace-nowrap"
									><button class="word" onclick={() => (figure = `cut:${c.name}`)}>{c.name}</button></td
								><td class="n">{decimal(c.points)}</td><td class="n whitespace-nowrap">{percent(c.passing)}</td><td
									class="n">{c.result ? percent(c.result.accuracy) : '–'}</td
								><td class="n">{c.result ? percent(c.result.consistency) : '–'}</td><td class="whitespace-normal"
									>{c.says}{c.why ? `: ${c.why}` : ''}</td
								><td
									>{#if cuts.length}<Button
											kind="quiet"
											class="min-h-[24px] px-1"
											aria-label="Remove {c.name}"
											onclick={() =>
												address.set({
													cut: cuts.filter((x) => Math.round(x) !== Math.round(c.share * 100)).map(String)
												})}>×</Button
										>{/if}</td
								></tr
							>{/each}
					</tbody>
				</Table>
			</Panel>
			<Panel label="Parts" class="p-4 text-[13.5px]">
				<div class="mb-1 flex items-center gap-3">
					<h2 class="flex-1">Sections</h2>
					<label class="small flex items-center gap-1.5"
						>by <Select
							value={by}
							choices={[
								{ value: 'standard', label: 'standard' },
								{ value: 'depth', label: 'depth' },
								{ value: 'kind', label: 'type' },
								{ value: 'part', label: 'part' }
							]}
							onchange={(to) => address.set({ by: to === 'standard' ? null : to })}
							small
							class="w-auto"
						/></label
					>
				</div>
				<Table>
					<thead
						><tr
							><th class="pl-0">Section</th><th class="n">Items</th><th class="n">Mean</th><th></th><th class="n"
								>Reliability</th
							><th class="n"><button class="word" onclick={() => (figure = 'part_scores')}>of itself</button></th><th
								class="n">by the total</th
							><th>In words</th></tr
						></thead
					><tbody>
						{#each t.parts as p (p.name)}<tr
								><td class="pl-0"
									>{#if by === 'standard'}<StandardCode code={p.name} />{:else}{p.name}{/if}</td
								><td class="n">{p.places.length}</td><td class="n">{percent(p.mean)}</td><td
									><Interval p={p.mean} ci={p.ci95} line={address.scope.line ?? 0.6} /></td
								><td class="n">{short(p.alpha)}</td><td class="n">{short(p.from_part)}</td><td class="n"
									>{short(p.from_total)}</td
								><td class="whitespace-normal {p.says_more ? 'font-semibold' : 'text-ink2'}"
									>{p.says_more === null
										? (p.why.says_more ?? p.why.alpha ?? '')
										: p.says_more
											? 'may be reported by itself'
											: 'read it by the total'}</td
								></tr
							>{/each}
					</tbody>
				</Table>
			</Panel>
			<div class="grid grid-cols-2 gap-3">
				<Panel label="Dimensions" class="p-4 text-[13.5px]">
					<h2 class="mb-1">
						<button class="word no-underline hover:!underline" onclick={() => (figure = 'dimensions')}
							>Dimensionality</button
						>
					</h2>
					<p class="mb-1">{data.dimensions_say[0]?.toUpperCase()}{data.dimensions_say.slice(1)}</p>
					{#if t.dimensions}
						<svg
							width="320"
							height="120"
							role="img"
							aria-label="Eigenvalues: {t.dimensions.eigenvalues
								.slice(0, 10)
								.map((v) => v.toFixed(1))
								.join(', ')}"
						>
							{#each t.dimensions.eigenvalues.slice(0, 10) as v, at (at)}<rect
									x={10 + at * 30}
									y={100 - (v / most) * 90}
									width="18"
									height={(v / most) * 90}
									fill={at < t.dimensions.count ? 'var(--color-relief2)' : 'var(--color-relief4)'}
									><title>{v.toFixed(2)}; chance {t.dimensions.chance[at]?.toFixed(2)}</title></rect
								><path
									d="M{6 + at * 30} {100 - ((t.dimensions.chance[at] ?? 0) / most) * 90}h26"
									stroke="var(--color-ink)"
									stroke-width="1.4"
								/><text x={19 + at * 30} y="114" font-size="11" text-anchor="middle" fill="var(--color-ink2)"
									>{at + 1}</text
								>{/each}
						</svg>
						<p class="small">Bars: what the items have in common, largest first. Strokes: what chance gives.</p>
					{/if}
				</Panel>
				<Panel label="Length" class="p-4 text-[13.5px]">
					<h2 class="mb-1">Reliability at other lengths</h2>
					{#if t.lengths.length}
						<Table>
							<tbody
								>{#each t.lengths as l (l.factor)}<tr class={l.factor === 1 ? 'font-semibold' : ''}
										><td class="h-6 pl-0">{l.items} items{l.factor === 1 ? ' (this test)' : ''}</td><td class="h-6"
											><svg width="110" height="10" aria-hidden="true"
												><rect
													width={Math.max(0, l.reliability) * 110}
													height="8"
													y="1"
													fill="var(--color-relief3)"
												/></svg
											></td
										><td class="n h-6 pr-0">{short(l.reliability)}</td></tr
									>{/each}</tbody
							>
						</Table>
						<p class="small mt-1">
							{t.wanted.map((w) => `${short(w.reliability, 1)} would take ${w.items} items like these`).join('; ')}.
						</p>
					{:else}<p class="small">Not projected: the reliability is not between 0 and 1.</p>{/if}
				</Panel>
			</div>
			{#if data.coverage_says}
				<Panel label="Coverage" headed class="p-4 text-[13.5px]">
					<p class="mb-1">{data.coverage_says}</p>
					{#if data.coverage.length}<Table>
							<thead
								><tr
									><th class="pl-0">Blueprint target</th><th class="n">From</th><th class="n">To</th><th class="n"
										>On the form</th
									><th class="n">Taken</th><th class="n">Sound</th></tr
								></thead
							><tbody
								>{#each data.coverage as c (c.name)}<tr
										><td class="pl-0">{c.name}</td><td class="n">{c.low}</td><td class="n">{c.high}</td><td class="n"
											>{c.have} {c.count}</td
										><td class="n">{c.sat}</td><td
											class="n {c.sound < Math.min(c.low, c.sat) ? 'font-semibold text-vermilion' : ''}">{c.sound}</td
										></tr
									>{/each}</tbody
							>
						</Table>{/if}
				</Panel>
			{/if}
		</div>
		<aside class="sheet sticky top-2 w-[310px] flex-none p-4 text-[13.5px]" aria-label="How this was calculated">
			{#key figure}
				{#if figure.startsWith('cut:')}<FigureText
						figure="classification"
						result={percent(data.trust.cuts.find((c) => `cut:${c.name}` === figure)?.result?.accuracy ?? null)}
						numbers={own(figure.slice(4))}
					/>
				{:else if figure === 'conditional_error'}<FigureText
						{figure}
						result="{decimal(t.sem)} on average"
						numbers={t.errors
							.filter((e, at) => e.error !== null && at % Math.ceil(t.errors.length / 8) === 1)
							.map((e) => [`at ${e.score} points`, decimal(e.error, 2)])}
					/>
				{:else if figure === 'part_scores'}<FigureText
						{figure}
						result="{t.parts.filter((p) => p.says_more).length} of {t.parts.length}"
						numbers={t.parts.map((p) => [
							p.name,
							p.from_part === null ? '–' : `${short(p.from_part)} against ${short(p.from_total)}`
						])}
					/>
				{:else if figure === 'dimensions'}<FigureText
						{figure}
						result={t.dimensions ? String(t.dimensions.count) : '–'}
						numbers={(t.dimensions?.eigenvalues.slice(0, 5) ?? []).map((v, at) => [
							`${at + 1}. eigenvalue, chance`,
							`${v.toFixed(2)}, ${t.dimensions?.chance[at]?.toFixed(2)}`
						])}
					/>
				{:else}<FigurePanel {figure} />{/if}
			{/key}
		</aside>
	</div>
{:else if asked.busy}<p class="small" role="status">{asked.progress || 'Working it out …'}</p>{/if}
