<script module lang="ts">
	let start: [number, number] | null = null;
</script>

<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import { pairs, pairText, type PartOf } from './answer';

	/** Things to sort: drag each into a category, or choose it and then the category. */
	let { part, value, onput }: { part: PartOf<'match'>; value: string; onput: (text: string) => void } = $props();
	const found = $derived(pairs(value));
	const loose = $derived(part.rows.filter((r) => !found[r.id]));
	let held = $state<string | null>(null);
	let drag = $state<{ id: string; x: number; y: number; far: boolean } | null>(null);
	let host: HTMLDivElement;

	function drop(row: string, column: string) {
		onput(pairText({ ...found, [row]: column }, part.rows));
		held = null;
	}

	function under(x: number, y: number): string | null {
		const spot = [...host.querySelectorAll<HTMLElement>('[data-column]')].find((box) => {
			const r = box.getBoundingClientRect();
			return x >= r.left && x <= r.right && y >= r.top && y <= r.bottom;
		});
		return spot ? (spot.dataset.column ?? '') : null;
	}

	function up(event: PointerEvent) {
		if (!drag) return;
		const { id, far } = drag;
		drag = null;
		const column = far ? under(event.clientX, event.clientY) : null;
		if (column !== null) drop(id, column);
		else if (!far) held = held === id ? null : id;
	}
</script>

{#snippet thing(row: { id: string; html: string })}
	<button
		type="button"
		aria-pressed={held === row.id}
		class="min-h-[44px] cursor-grab touch-none rounded-md border-[1.5px] bg-sheet px-3 py-1.5 text-left text-[17px] {held ===
		row.id
			? 'border-petrol shadow-[inset_4px_0_0_var(--color-petrol)]'
			: 'border-edge-soft'} {drag?.id === row.id && drag.far ? 'relative z-20 opacity-90 shadow-lg' : ''}"
		style:transform={drag?.id === row.id && drag.far ? `translate(${drag.x}px, ${drag.y}px)` : undefined}
		onpointerdown={(e) => {
			drag = { id: row.id, x: 0, y: 0, far: false };
			e.currentTarget.setPointerCapture(e.pointerId);
			start = [e.clientX, e.clientY];
		}}
		onpointermove={(e) => {
			if (!drag || !start) return;
			const [x, y] = [e.clientX - start[0], e.clientY - start[1]];
			drag = { ...drag, x, y, far: drag.far || Math.hypot(x, y) > 6 };
		}}
		onpointerup={up}
		onpointercancel={() => (drag = null)}
		onkeydown={(e) => {
			if (e.key !== 'Enter' && e.key !== ' ') return;
			e.preventDefault();
			held = held === row.id ? null : row.id;
		}}><Markup html={row.html} inline /></button
	>
{/snippet}

<div class="@container" bind:this={host}>
	<div
		class="mb-3 flex min-h-[60px] flex-wrap content-start gap-2 rounded-md border-[1.5px] border-dashed border-edge-soft p-2"
		data-column=""
	>
		{#each loose as row (row.id)}{@render thing(row)}{:else}<span class="self-center px-2 text-[16px] text-ink2"
				>All are sorted.</span
			>{/each}
	</div>
	<p class="mb-2 text-[15px] text-ink2" aria-live="polite">
		{held ? 'Now choose where it belongs.' : 'Drag each one, or choose it and then its place.'}
	</p>
	<div class="grid gap-3 @md:grid-cols-2 {part.columns.length > 2 ? '@2xl:grid-cols-3' : ''}">
		{#each part.columns as column (column.id)}
			<div
				class="flex min-h-[110px] flex-col gap-2 rounded-md border-[1.5px] p-2 {held
					? 'border-petrol bg-paper'
					: 'border-edge-soft bg-paper'}"
				data-column={column.id}
			>
				<button
					type="button"
					class="min-h-[32px] cursor-pointer text-left text-[16px] font-semibold disabled:cursor-default"
					disabled={!held}
					onclick={() => held && drop(held, column.id)}
					><Markup html={column.html} inline />{#if held}{' '}<span class="ml-2 font-normal text-petrol"
							>put it here</span
						>{/if}</button
				>
				<div class="flex flex-wrap gap-2">
					{#each part.rows.filter((r) => found[r.id] === column.id) as row (row.id)}{@render thing(row)}{/each}
				</div>
			</div>
		{/each}
	</div>
	{#if value}<Button kind="quiet" class="mt-2 px-0 text-[15px]" onclick={() => onput('')}>Start over</Button>{/if}
</div>
