<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { decimal, percent, short, whole } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** How far scorers of an item agree, and who is severe: effects with their 95 % intervals on one line. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	const WIDE = 420;
	const reach = $derived(Math.max(0.5, ...(page?.scorers ?? []).flatMap((s) => (s.ci95 ?? []).map(Math.abs))));
	const x = (points: number) => WIDE / 2 + (points / reach) * (WIDE / 2 - 8);
	const signed = (value: number) => (value > 0 ? '+' : '') + decimal(value, 2);
</script>

<div class="small mb-1">
	<a class="word" href="/scoring">Scoring</a>{#if page}<span class="float-right"
			>All scores of this test with who and when:
			<a class="word" href="/api/scoring/forms/{page.form_id}/scores.xlsx?window={data.window}" download>XLSX</a>,
			<a class="word" href="/api/scoring/forms/{page.form_id}/scores.csv?window={data.window}" download>CSV</a></span
		>{/if}
</div>
<Notice text={data.problem} />
{#if page}
	<Finding
		of="Agreement, item {page.number}"
		title="Agreement on {page.item}"
		station="Scoring"
		beside="{page.form}, {page.window}">{page.finding}</Finding
	>
	<Panel label="Severity" class="mt-3 px-5 py-4">
		<h2 class="text-[15px]">Severity beside the mean of these scorers</h2>
		<p class="small mb-2">
			Points above or below, with 95% intervals, {page.way}. No score is changed by it; what a scorer gave can be scored
			again.{page.prescored
				? ''
				: ' Whether anyone is off what is right takes pre-scored responses: tick it on the desk as you score one.'}
		</p>
		<Table>
			<thead
				><tr
					><th>Scorer</th><th>{page.residual_sd === null ? '' : 'lower ← points → higher'}</th><th class="n">Effect</th
					><th class="n">Scored</th><th class="n">With another</th>{#if page.prescored}<th class="n"
							>Off the pre-scored</th
						>{/if}<th class="n">Condition codes</th><th>What may be said</th></tr
				></thead
			>
			<tbody>
				{#each page.scorers as s (s.id)}
					<tr>
						<td class="font-semibold whitespace-nowrap">{s.name}</td>
						<td class="w-[430px]"
							>{#if s.effect !== null && s.ci95}{@const [low = 0, high = 0] = s.ci95}<svg
									width={WIDE}
									height="22"
									role="img"
									aria-label="{signed(s.effect)} points, {signed(low)} to {signed(high)}"
									><path d="M{WIDE / 2} 0V22" stroke="var(--color-ink2)" stroke-dasharray="2 2" /><path
										d="M{x(low)} 11H{x(high)}"
										stroke="var(--color-petrol)"
										stroke-width="2"
									/><circle
										cx={x(s.effect)}
										cy="11"
										r="5"
										fill={s.rescore ? 'var(--color-vermilion)' : 'var(--color-relief3)'}
										stroke="var(--color-petrol)"
									/></svg
								>{/if}</td
						>
						<td class="n">{s.effect === null ? '' : signed(s.effect)}</td>
						<td class="n">{whole(s.scored)}</td>
						<td class="n">{whole(s.pairs)}</td>
						{#if page.prescored}<td class="n whitespace-nowrap {s.off ? 'font-semibold' : ''}"
								>{s.apart === null
									? ''
									: `${signed(s.apart)}${s.reach === null ? '' : ` ± ${decimal(s.reach, 2)}`}`}{#if s.prescored}<span
										class="small block leading-tight font-normal">{whole(s.right)} of {whole(s.prescored)} alike</span
									>{/if}</td
							>{/if}
						<td class="n">{s.codes || ''}</td>
						<td
							>{s.verdict}{#if s.needed}<span class="small block leading-tight">{s.needed} more pairs needed</span
								>{/if}{#if s.rescore}<span class="small block leading-tight"
									>{whole(s.students)} students could be moved by rescoring</span
								><Button
									class="mt-1 min-h-[28px]"
									href="/scoring/correct/{params.place}?window={data.window}&kind=rescore&scorer={s.id}"
									>Score these again …</Button
								>{/if}</td
						>
					</tr>
				{/each}
			</tbody>
		</Table>
	</Panel>
	{#if page.pairs.length}
		<Panel label="Pairs of scorers" class="mt-3 px-5 py-4">
			<h2 class="text-[15px]">Pairs of scorers on the same responses</h2>
			<Table>
				<thead
					><tr
						><th>First</th><th>Second</th><th class="n">Both scored</th><th class="n">Same points</th><th class="n"
							>Within one</th
						><th class="n">Difference</th><th class="n">κ</th><th class="n">weighted κ</th><th class="n"
							>Condition codes alike</th
						></tr
					></thead
				>
				<tbody>
					{#each page.pairs as p (`${p.first} ${p.second}`)}
						<tr
							><td>{p.first}</td><td>{p.second}</td><td class="n">{whole(p.n)}</td><td class="n">{percent(p.exact)}</td
							><td class="n">{percent(p.adjacent)}</td><td class="n"
								>{p.difference === null ? '' : signed(p.difference)}</td
							><td class="n">{short(p.kappa)}</td><td class="n">{short(p.weighted_kappa)}</td><td class="n"
								>{p.codes ? `${p.codes_alike} of ${p.codes}` : ''}</td
							></tr
						>
					{/each}
				</tbody>
			</Table>
			<p class="small px-1 pt-2">Difference: second minus first, in points. κ: agreement beyond chance.</p>
		</Panel>
	{/if}
{/if}
