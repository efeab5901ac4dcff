<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Markup from '$lib/parts/Markup.svelte';

	/** What a student is told of one answer. Said in words; the mark beside them is only a second sign. */
	let { told }: { told: Schemas['Told'] } = $props();
	const WORDS = {
		right: 'Right.',
		partly: 'Partly right.',
		wrong: 'Not right.',
		waits: 'A teacher will score this.',
		open: 'Nothing was answered here.'
	};
	const EDGE = {
		right: 'border-l-relief3',
		partly: 'border-l-relief2',
		wrong: 'border-l-relief1',
		waits: 'border-l-hair',
		open: 'border-l-hair'
	};
</script>

<div
	class="mt-4 rounded border border-hair border-l-[6px] {EDGE[told.verdict]} bg-paper px-4 py-3 text-[17px]"
	role="status"
>
	<p>
		<b>{WORDS[told.verdict]}</b>{#if told.points !== 1 && told.earned !== null}&ensp;{told.earned} of {told.points} points.{/if}
	</p>
	{#if told.verdict !== 'right' && told.right}<p class="mt-1">
			The right answer: <Markup html={told.right} inline />
		</p>{/if}
	{#if told.note}<p class="mt-1">{told.note}</p>{/if}
	{#each told.comments as comment, at (at)}<p class="mt-2 border-t border-hair pt-2 whitespace-pre-wrap" dir="auto">
			<b>Your teacher says:</b>
			{comment}
		</p>{/each}
	{#if told.solution}<div class="mt-2 border-t border-hair pt-2"><Markup html={told.solution} /></div>{/if}
</div>
