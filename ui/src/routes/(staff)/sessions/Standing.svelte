<script lang="ts">
	import { staff } from '$lib/state/staff.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import type { Schemas } from '$lib/api/client';
	import { whole } from '$lib/words/show';
	import OwedNames from './OwedNames.svelte';

	/** Tests owed in a window by how they stand: five numbers that add up, each of which leads to its names. */
	let { of, window }: { of: Schemas['ParticipationPage']; window: string } = $props();
	const LOOK: Record<string, string> = {
		submitted: 'var(--color-relief5)',
		in_progress: 'var(--color-relief4)',
		scheduled: 'var(--color-relief3)',
		not_scheduled: 'var(--color-vermilion)',
		exempt: 'var(--color-hair)'
	};
	let shown = $state<Schemas['StandingCount'] | null>(null);
	let open = $state(false);
	const total = $derived(of.whole.owed);
</script>

<Panel label="Tests owed" class="mb-3 px-4 py-3">
	<div
		class="flex h-4 overflow-hidden rounded-[3px] border border-edge-soft"
		role="img"
		aria-label="{whole(total)} tests owed: {of.whole.counts.map((c) => `${whole(c.n)} ${c.words}`).join(', ')}"
	>
		{#each of.whole.counts as c (c.standing)}
			{#if c.n}<span style:width="{(c.n / total) * 100}%" style:background={LOOK[c.standing]}></span>{/if}
		{/each}
	</div>
	<div class="mt-2 flex flex-wrap items-center gap-x-6 gap-y-1 text-[14px]">
		{#each of.whole.counts as c (c.standing)}
			<button
				class="flex min-h-[28px] cursor-pointer items-center gap-2 hover:underline disabled:cursor-default disabled:no-underline"
				disabled={!c.n}
				onclick={() => ((shown = c), (open = true))}
			>
				<span class="size-3 rounded-[2px] border border-edge-soft" style:background={LOOK[c.standing]}></span>
				<b class="tabular-nums">{whole(c.n)}</b>
				{c.words}
			</button>
		{/each}
		<span class="small ml-auto">{whole(total)} tests owed</span>
		{#if staff.may('sessions.plan')}<a class="word mr-4 text-[14px]" href="/sessions/forms?window={window}">Forms</a
			>{/if}<a class="word text-[14px]" href="/sessions/participation?window={window}">Participation</a>
	</div>
</Panel>
{#if shown}<OwedNames bind:open title={shown.words} {window} query={{ standing: shown.standing }} />{/if}
