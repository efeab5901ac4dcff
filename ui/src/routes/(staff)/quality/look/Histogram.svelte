<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import type { Schemas } from '$lib/api/client';
	import { decimal, percent, reliefColor, short } from '$lib/words/show';

	/** Students by points, tinted by height, with one standard error either side of the mean. */
	let { test, onfigure }: { test: Schemas['TestFigures']; onfigure: (figure: string) => void } = $props();
	let width = $state(280);
	const height = 104;
	const ground = 86;
	const x = $derived((score: number) => 12 + (score / test.points) * (width - 24));
	const whole = (value: number | null) => decimal(value, value !== null && value % 1 ? 1 : 0);
	const most = $derived(Math.max(1, ...test.histogram.map((b) => b.students)));
	const bar = $derived(Math.max(1.5, (width - 24) / (test.points + 1) - 1));
	const FIGURES = $derived<[string, string, string][]>([
		[
			'mean',
			decimal(test.mean),
			`mean of ${test.points}${test.min === null ? '' : `, from ${whole(test.min)} to ${whole(test.max)}`}`
		],
		['sd', decimal(test.sd), 'sd'],
		['sem', decimal(test.sem), 'std. error'],
		['alpha', short(test.alpha), 'alpha'],
		['ceiling', percent(test.ceiling), 'at top']
	]);
</script>

<Panel label="Distribution of points" class="flex min-w-0 flex-col">
	<div class="small px-3 pt-2">Students by points; the bar marks mean ± 1 standard error</div>
	<div class="min-w-0" bind:clientWidth={width}>
		<svg
			{width}
			{height}
			class="block"
			role="img"
			aria-label="{test.n} students, mean {decimal(test.mean)} of {test.points} points"
		>
			{#each test.histogram as b (b.score)}
				<rect
					x={x(b.score) - bar / 2}
					y={ground - (b.students / most) * 64}
					width={bar}
					height={(b.students / most) * 64}
					fill={reliefColor(b.score / test.points)}><title>{b.score} points: {b.students}</title></rect
				>
			{/each}
			<path d="M8 {ground}H{width - 8}" stroke="var(--color-ink2)" />
			{#if test.mean !== null && test.sem !== null}
				<path
					d="M{x(test.mean - test.sem)} 11H{x(test.mean + test.sem)}M{x(test.mean - test.sem)} 7v8M{x(
						test.mean + test.sem
					)} 7v8M{x(test.mean)} 8v6"
					stroke="var(--color-ink)"
					stroke-width="1.200"
				/>
			{/if}
			<text x={x(0)} y="99" font-size="11" text-anchor="middle" fill="var(--color-ink2)">0</text>
			<text x={x(test.points)} y="99" font-size="11" text-anchor="middle" fill="var(--color-ink2)">{test.points}</text>
		</svg>
	</div>
	<div class="mt-auto flex flex-wrap gap-x-4 gap-y-1 px-3 pt-0.5 pb-2.5">
		{#each FIGURES as [figure, value, words] (figure)}
			<button class="group cursor-pointer text-left text-[12.5px] text-ink2" onclick={() => onfigure(figure)}>
				<b class="block text-[17px] leading-tight font-semibold text-ink group-hover:underline">{value}</b>{words}
			</button>
		{/each}
	</div>
</Panel>
