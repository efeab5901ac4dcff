<script lang="ts">
	import type { DeskPage } from './desk.svelte';

	/** The rubric as a flight of terraces, the best level on top; a number gives the level of the criterion that is next. */
	let { shown }: { shown: DeskPage } = $props();
	const desk = $derived(shown.desk!);
	const several = $derived(desk.criteria.length > 1);
	/** From the top of a flight to its foot. */
	const TINTS = ['relief5', 'relief4', 'relief3', 'relief2', 'relief1'];
	const tint = (at: number, of: number) => TINTS[Math.round((at * (TINTS.length - 1)) / Math.max(1, of - 1))];
</script>

{#each desk.criteria as criterion, n (n)}
	<fieldset class="mb-3" disabled={!shown.open || shown.busy}>
		<legend class="mb-1 text-[14px] font-semibold {several && shown.at === n && !shown.code ? '' : 'text-ink2'}"
			>{criterion.title || 'Points'}{#if several && shown.at === n && !shown.code && shown.open}<span
					class="small ml-2 font-normal">press a number</span
				>{/if}</legend
		>
		{#each criterion.levels as level, at (level.points)}
			{@const on = shown.criteria[n] === level.points}
			<button
				type="button"
				class="terrace {on ? 'on' : ''}"
				style:margin-left="{Math.max(0, criterion.levels.length - 1 - at) * 12}px"
				style:border-bottom-color="var(--color-{tint(at, criterion.levels.length)})"
				aria-pressed={on}
				onclick={() => shown.give(n, level.points)}
			>
				<kbd>{level.points}</kbd><span>{level.text}</span>
			</button>
		{/each}
	</fieldset>
{/each}

<style>
	.terrace {
		display: flex;
		gap: 10px;
		align-items: baseline;
		width: auto;
		min-width: 60%;
		padding: 7px 10px 6px 8px;
		text-align: left;
		font-size: 13.5px;
		line-height: 1.3;
		background: var(--color-white);
		border: 1px solid var(--color-hair);
		border-bottom: 6px solid;
		cursor: pointer;
		box-sizing: border-box;
	}
	fieldset {
		display: flex;
		flex-direction: column;
	}
	.terrace:disabled {
		cursor: default;
	}
	.terrace.on {
		outline: 2px solid var(--color-petrol);
		outline-offset: -1px;
		background: var(--color-wash);
	}
	kbd {
		flex: none;
		min-width: 22px;
		padding: 0 5px;
		text-align: center;
		font-family: var(--font-mono);
		border: 1px solid var(--color-edge);
		border-radius: 3px;
	}
	.on kbd {
		color: var(--color-white);
		background: var(--color-petrol);
		border-color: var(--color-petrol);
	}
</style>
