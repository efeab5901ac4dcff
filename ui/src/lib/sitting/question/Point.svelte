<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import type { PartOf } from './answer';

	/** A point on a picture; arrow keys move it. */
	let { part, value, onput }: { part: PartOf<'point'>; value: string; onput: (text: string) => void } = $props();
	const spot = $derived(value ? (value.split(' ').map(Number) as [number, number]) : null);
	let field: HTMLButtonElement;

	function put(event: PointerEvent) {
		const box = field.getBoundingClientRect();
		const x = ((event.clientX - box.left) / box.width) * part.width;
		const y = ((event.clientY - box.top) / box.height) * part.height;
		go(x, y);
	}

	function go(x: number, y: number) {
		onput(`${Math.round(Math.max(0, Math.min(part.width, x)))} ${Math.round(Math.max(0, Math.min(part.height, y)))}`);
	}

	function keys(event: KeyboardEvent) {
		const step = event.shiftKey ? 1 : Math.max(4, Math.round(part.width / 60));
		const [x, y] = spot ?? [part.width / 2, part.height / 2];
		const by: Record<string, [number, number]> = {
			ArrowLeft: [-step, 0],
			ArrowRight: [step, 0],
			ArrowUp: [0, -step],
			ArrowDown: [0, step]
		};
		const move = by[event.key];
		if (!move) return;
		event.preventDefault();
		event.stopPropagation();
		go(x + move[0], y + move[1]);
	}
</script>

<button
	type="button"
	bind:this={field}
	class="relative block max-w-full cursor-crosshair touch-none overflow-hidden rounded border border-hair"
	style:width="{part.width}px"
	style:aspect-ratio="{part.width} / {part.height}"
	aria-label="{part.told}. {spot ? `Point at ${spot[0]} across, ${spot[1]} down` : 'No point yet'}; arrow keys move it"
	onpointerdown={put}
	onkeydown={keys}
>
	<img class="pointer-events-none block size-full" src="/api/media/{part.picture}" alt="" draggable="false" />
	{#if spot}
		<svg
			class="pointer-events-none absolute inset-0 size-full"
			viewBox="0 0 {part.width} {part.height}"
			aria-hidden="true"
		>
			<circle
				cx={spot[0]}
				cy={spot[1]}
				r={part.width / 40}
				fill="none"
				stroke="var(--color-white)"
				stroke-width={part.width / 110}
			/>
			<circle
				cx={spot[0]}
				cy={spot[1]}
				r={part.width / 40}
				fill="none"
				stroke="var(--color-vermilion)"
				stroke-width={part.width / 170}
			/>
			<circle cx={spot[0]} cy={spot[1]} r={part.width / 200} fill="var(--color-vermilion)" />
		</svg>
	{/if}
</button>
<p class="mt-1 text-[16px] text-ink2">
	{spot ? 'Touch another place to move the point.' : 'Touch the picture to put a point on it.'}
</p>
{#if value}<Button kind="quiet" class="px-0 text-[15px]" onclick={() => onput('')}>Remove point</Button>{/if}
