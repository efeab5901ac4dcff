<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { PartOf } from './answer';

	/** A point on a number line. A range field carries it, so that arrow keys and readers work; the drawing shows it. */
	let { part, value, onput }: { part: PartOf<'line'>; value: string; onput: (text: string) => void } = $props();
	const places = $derived(
		Math.max(0, ...[part.step, part.low, part.every].map((n) => (String(n).split('.')[1] ?? '').length))
	);
	const ticks = $derived(
		Array.from({ length: Math.floor((part.high - part.low) / part.every + 1e-9) + 1 }, (_, n) =>
			Number((part.low + n * part.every).toFixed(places + 2))
		)
	);
	const steps = $derived(Math.round((part.high - part.low) / part.step));
	const x = (n: number) => 3 + ((n - part.low) / (part.high - part.low)) * 94;
	const shown = $derived(value === '' ? null : Number(value));
	let drawing: SVGSVGElement;

	function at(event: PointerEvent) {
		const box = drawing.getBoundingClientRect();
		const share = ((event.clientX - box.left) / box.width) * 100;
		const raw = part.low + ((share - 3) / 94) * (part.high - part.low);
		const step = Math.round((raw - part.low) / part.step);
		put(Math.max(0, Math.min(steps, step)));
	}
	const put = (step: number) => onput((part.low + step * part.step).toFixed(places));
</script>

<div class="relative max-w-[680px] py-2">
	<svg
		bind:this={drawing}
		viewBox="0 0 100 16"
		class="block w-full cursor-pointer touch-none select-none"
		aria-hidden="true"
		onpointerdown={(e) => {
			e.currentTarget.setPointerCapture(e.pointerId);
			at(e);
		}}
		onpointermove={(e) => e.buttons && at(e)}
	>
		<path
			d="M1 7H99M2.4 6.2L1 7l1.4.8M97.6 6.2L99 7l-1.4.8"
			fill="none"
			stroke="var(--color-ink)"
			stroke-width="0.35"
		/>
		{#each ticks as tick (tick)}
			<path d="M{x(tick)} 5.6V8.4" stroke="var(--color-ink)" stroke-width="0.35" />
			<text x={x(tick)} y="12.2" text-anchor="middle" font-size={ticks.length > 14 ? 2 : 2.8} fill="var(--color-ink)"
				>{String(tick).replace('-', '−')}</text
			>
		{/each}
		{#if shown !== null}<circle
				cx={x(shown)}
				cy="7"
				r="1.9"
				fill="var(--color-petrol)"
				stroke="var(--color-white)"
				stroke-width="0.4"
			/>{/if}
	</svg>
	<input
		class="sr-only"
		type="range"
		aria-label="Place on the number line"
		min="0"
		max={steps}
		step="1"
		value={shown === null ? Math.round(steps / 2) : Math.round((shown - part.low) / part.step)}
		aria-valuetext={shown === null ? 'nothing yet' : value}
		oninput={(e) => put(Number(e.currentTarget.value))}
	/>
</div>
<p class="text-[16px] text-ink2" aria-live="polite">
	{shown === null ? 'Touch the line to put a point on it.' : 'Drag the point, or move it with the arrow keys.'}
</p>
{#if value}<Button kind="quiet" class="px-0 text-[15px]" onclick={() => onput('')}>Remove point</Button>{/if}
