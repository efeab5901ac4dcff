<script lang="ts">
	import { said } from '$lib/api/client';
	import type { PartOf } from '$lib/sitting/question/answer';
	import { keepMedia } from './pictures';

	/** The picture to point at, and the areas that are right: a circle is dragged out from its middle. */
	let {
		part,
		areas,
		onpart,
		onareas
	}: { part: PartOf<'point'>; areas: string; onpart: () => void; onareas: (areas: string) => void } = $props();
	let problem = $state('');
	let drawing = $state<{ x: number; y: number; r: number } | null>(null);
	let stage = $state() as SVGSVGElement;
	const list = $derived(
		areas
			.split('|')
			.map((a) => a.trim())
			.filter(Boolean)
	);
	const numbers = (area: string) => area.split(/\s+/).slice(1).map(Number);

	async function choose(event: Event) {
		const file = (event.currentTarget as HTMLInputElement).files?.[0];
		if (!file) return;
		try {
			const kept = await keepMedia(file);
			if (!kept.width || !kept.height) throw new Error('Choose a picture.');
			part.picture = kept.key;
			[part.width, part.height] = [kept.width, kept.height];
			problem = '';
			onareas('');
			onpart();
		} catch (error) {
			problem = said(error);
		}
	}

	function spot(event: PointerEvent): [number, number] {
		const box = stage.getBoundingClientRect();
		return [
			((event.clientX - box.left) / box.width) * part.width,
			((event.clientY - box.top) / box.height) * part.height
		];
	}
	function down(event: PointerEvent) {
		const [x, y] = spot(event);
		drawing = { x, y, r: 0 };
		stage.setPointerCapture(event.pointerId);
	}
	function move(event: PointerEvent) {
		if (!drawing) return;
		const [x, y] = spot(event);
		drawing.r = Math.hypot(x - drawing.x, y - drawing.y);
	}
	function up() {
		if (!drawing) return;
		const { x, y, r } = drawing;
		drawing = null;
		onareas(
			[...list, `circle ${Math.round(x)} ${Math.round(y)} ${Math.round(Math.max(r, part.width / 30))}`].join('|')
		);
	}
</script>

<div class="mb-2 flex flex-wrap items-end gap-3">
	<label class="btn cursor-pointer has-focus-visible:outline-2"
		>{part.picture ? 'Another picture' : 'Choose a picture'}<input
			class="sr-only"
			type="file"
			accept="image/png,image/jpeg,image/webp,image/gif"
			onchange={choose}
		/></label
	>
	<label class="field flex-1"
		>Alt text for students who cannot see the picture<input
			class="input"
			maxlength="400"
			value={part.told}
			oninput={(e) => {
				part.told = e.currentTarget.value;
				onpart();
			}}
		/></label
	>
</div>
{#if problem}<p class="text-vermilion" role="alert">{problem}</p>{/if}
{#if part.picture}
	<div class="relative max-w-full" style:width="{part.width}px">
		<img class="block w-full rounded border border-hair" src="/api/media/{part.picture}" alt={part.told} />
		<svg
			bind:this={stage}
			class="absolute inset-0 size-full cursor-crosshair touch-none"
			viewBox="0 0 {part.width} {part.height}"
			role="img"
			aria-label="{list.length} correct areas"
			onpointerdown={down}
			onpointermove={move}
			onpointerup={up}
		>
			{#each list as area, at (at)}
				{@const n = numbers(area)}
				{#if area.startsWith('circle')}<circle cx={n[0]} cy={n[1]} r={n[2]} class="area" />
				{:else if area.startsWith('rect')}<rect
						x={n[0]}
						y={n[1]}
						width={(n[2] ?? 0) - (n[0] ?? 0)}
						height={(n[3] ?? 0) - (n[1] ?? 0)}
						class="area"
					/>
				{:else}<polygon points={n.join(' ')} class="area" />{/if}
			{/each}
			{#if drawing}<circle cx={drawing.x} cy={drawing.y} r={drawing.r} class="area" />{/if}
		</svg>
	</div>
	<p class="small mt-1">Drag from the center to draw a circle around each correct place.</p>
{/if}
<label class="field mt-2"
	>Correct areas, in image pixels: <code>circle 40 30 12|rect 0 0 20 10</code><input
		class="input"
		maxlength="2000"
		value={areas}
		oninput={(e) => onareas(e.currentTarget.value)}
	/></label
>

<style>
	.area {
		fill: color-mix(in srgb, var(--color-petrol) 20%, transparent);
		stroke: var(--color-petrol);
		stroke-width: 2;
		vector-effect: non-scaling-stroke;
	}
</style>
