<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { decimal, percent, short } from '$lib/words/show';

	let { predicted, narrow = false }: { predicted: Schemas['PredictedOut']; narrow?: boolean } = $props();

	const W = 240;
	const H = 46;
	const highest = $derived(Math.max(0.0001, ...predicted.distribution));
	const step = $derived(W / Math.max(1, predicted.distribution.length));
	const known = $derived(predicted.unknown.length ? `, on the ${predicted.known} items with a history` : '');
</script>

<!-- What a form will do: the expected totals as a strip of bars, the mean with its interval below. -->
<div class="flex items-end gap-4 {narrow ? 'flex-col items-start gap-2' : ''}">
	{#if predicted.distribution.length && predicted.mean !== null}
		<svg
			width={W}
			height={H + 14}
			viewBox="0 0 {W} {H + 14}"
			role="img"
			aria-label="Expected totals: about {decimal(
				predicted.mean
			)} of {predicted.known_points} points, standard deviation {decimal(predicted.sd)}"
		>
			{#each predicted.distribution as chance, at (at)}
				<rect
					x={at * step}
					y={H - (chance / highest) * H}
					width={Math.max(0.5, step - 0.7)}
					height={(chance / highest) * H}
					fill="var(--color-relief3)"
				/>
			{/each}
			<line x1="0" x2={W} y1={H} y2={H} stroke="var(--color-hair)" />
			{#if predicted.mean_ci95}
				<line
					x1={(predicted.mean_ci95.low + 0.5) * step}
					x2={(predicted.mean_ci95.high + 0.5) * step}
					y1={H + 5}
					y2={H + 5}
					stroke="var(--color-petrol)"
					stroke-width="2"
				/>
			{/if}
			<circle cx={(predicted.mean + 0.5) * step} cy={H + 5} r="3.5" fill="var(--color-petrol)" />
		</svg>
	{/if}
	<dl class="grid grid-cols-[auto_auto] gap-x-3 text-[12.5px]">
		{#if predicted.mean !== null}
			<dt class="text-ink2">Expected mean</dt>
			<dd>{decimal(predicted.mean)} of {predicted.known_points} ({percent(predicted.share)}){known}</dd>
		{/if}
		{#if predicted.alpha !== null}
			<dt class="text-ink2">Alpha</dt>
			<dd>{short(predicted.alpha)}, standard error {decimal(predicted.sem)} points</dd>
		{/if}
		<dt class="text-ink2">Time</dt>
		<dd>{Math.round(predicted.minutes)} min{predicted.untimed ? `, ${predicted.untimed} items without a time` : ''}</dd>
		{#if predicted.used}
			<dt class="text-ink2">Used this year</dt>
			<dd>{predicted.used} of {predicted.items} items</dd>
		{/if}
	</dl>
</div>
