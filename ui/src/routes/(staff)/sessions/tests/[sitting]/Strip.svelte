<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { GAVE_WORDS, hue } from '$lib/words/show';

	/** The student's row of the response grid is the way through the test. A correct answer is left empty. */
	let { items, at, onpick }: { items: Schemas['StudentItem'][]; at: number; onpick: (at: number) => void } = $props();
	const SIGNS: Partial<Record<Schemas['StudentItem']['gave'], string>> = {
		omitted: '○',
		not_reached: '/',
		awaiting: '?',
		not_presented: '·'
	};
	const present = $derived([...new Set(items.map((i) => i.gave))].filter((g) => g !== 'right'));

	function look(item: Schemas['StudentItem']): string {
		if (item.gave === 'wrong') return item.letter ? hue(item.letter.charCodeAt(0) - 65) : 'var(--color-relief1)';
		return item.gave === 'partly' ? 'linear-gradient(0deg, var(--color-relief3) 50%, var(--color-white) 50%)' : '';
	}
</script>

<div class="flex flex-wrap gap-[3px]">
	{#each items as item, n (item.place)}
		<button
			class="flex w-[26px] cursor-pointer flex-col items-center {n === at ? 'here' : ''}"
			aria-label="Item {item.number}, {GAVE_WORDS[item.gave]}"
			aria-current={n === at ? 'step' : undefined}
			onclick={() => onpick(n)}
		>
			<span
				class="cell {item.gave === 'wrong' ? 'text-white' : ''}"
				style:background={look(item)}
				class:dashed={item.gave === 'awaiting'}
				>{item.gave === 'wrong' ? item.letter || '×' : (SIGNS[item.gave] ?? '')}</span
			>
			<span class="text-[11.5px] leading-[15px] {n === at ? 'font-bold' : 'text-ink2'}">{item.number}</span>
		</button>
	{/each}
</div>
<p class="small mt-1.5">
	Empty: correct{present
		.map((g) => `; ${g === 'wrong' ? 'letter or ×' : g === 'partly' ? 'half' : SIGNS[g]}: ${GAVE_WORDS[g]}`)
		.join('')}.
</p>

<style>
	.cell {
		display: flex;
		align-items: center;
		justify-content: center;
		width: 24px;
		height: 24px;
		font-size: 13px;
		font-weight: 600;
		border: 1px solid var(--color-edge-soft);
	}
	.dashed {
		border: 1.5px dashed var(--color-ink);
	}
	.here .cell {
		outline: 2px solid var(--color-petrol);
		outline-offset: 1px;
	}
</style>
