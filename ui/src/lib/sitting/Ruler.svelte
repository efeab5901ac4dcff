<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Laid from './Laid.svelte';

	/** A ruler to lay over a picture. Its centimeters are those of this screen: it compares lengths, as on paper. */
	let turn = $state(0);
	const CM = 37.8;
	const LENGTH = 15;
</script>

<Laid
	label="Ruler; arrow keys move it, R turns it"
	x={40}
	y={180}
	step={5}
	pivot="0 0"
	class="rounded-sm border border-ink2 bg-relief5/80"
	bind:turn
>
	<svg width={CM * LENGTH + 16} height="52" aria-hidden="true">
		{#each Array.from({ length: LENGTH * 10 + 1 }, (_, i) => i) as mm (mm)}
			<line
				x1={8 + (mm * CM) / 10}
				x2={8 + (mm * CM) / 10}
				y1="0"
				y2={mm % 10 === 0 ? 18 : mm % 5 === 0 ? 13 : 8}
				stroke="var(--color-ink)"
				stroke-width="1"
			/>
			{#if mm % 10 === 0}<text x={8 + (mm * CM) / 10} y="33" font-size="13" text-anchor="middle" fill="var(--color-ink)"
					>{mm / 10}</text
				>{/if}
		{/each}
	</svg>
	{#snippet buttons()}
		<Button class="min-h-[32px] bg-sheet text-[14px]" onclick={() => (turn = (turn + 15) % 360)}>Turn</Button>
	{/snippet}
</Laid>
