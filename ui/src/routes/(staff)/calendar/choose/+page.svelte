<script lang="ts">
	import { untrack } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Finding from '$lib/design/Finding.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { toasts } from '$lib/design/toasts.svelte';
	import type { PageProps } from './$types';

	/** A teacher takes a block for each test of their own classes; what is taken says by what. */
	let { data }: PageProps = $props();
	let shown = $state.raw<Schemas['BlockChoicesPage'] | null>(untrack(() => data.found));
	let problem = $derived(data.problem);
	let busy = $state('');
	let told = $state({ key: '', says: '' });

	/** The days of a plan, each with its blocks and their places among the choices. */
	function daysOf(one: Schemas['BlockChoices']) {
		const found: { day: string; blocks: { at: number; slot: number; name: string; time: string }[] }[] = [];
		one.blocks.forEach((block, at) => {
			if (found.at(-1)?.day !== block.day) found.push({ day: block.day, blocks: [] });
			found.at(-1)!.blocks.push({ at, ...block });
		});
		return found;
	}

	async function choose(one: Schemas['BlockChoices'], line: Schemas['ChoiceLine'], slot: number) {
		busy = line.key;
		problem = '';
		told = { key: '', says: '' };
		try {
			const sent = { key: line.key, slot: line.slot === slot ? null : slot };
			const path = { plan: one.plan };
			shown = await body(api.PUT('/api/planning/plans/{plan}/choices', { params: { path }, body: sent }));
			toasts.say(sent.slot === null ? `${line.name} has no block now.` : `${line.name} has a block.`);
		} catch (error) {
			problem = said(error);
		}
		busy = '';
	}
</script>

<div class="small mb-1"><a class="word" href="/today">Today</a></div>
{#if shown}
	<Finding of="Choose blocks" station="Today" class="mb-3">{shown.finding}</Finding>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#each shown.plans as one (one.plan)}
		<h2 class="mb-1">{one.window}, {one.school}</h2>
		<p class="small mb-2">
			Choose a block for each test; your classes stay in their own rooms. A block that cannot be chosen says why.
		</p>
		{#each one.lines as line (line.key)}
			<section class="sheet mb-3 px-4 py-3" aria-label={line.name}>
				<div class="mb-2 flex flex-wrap items-baseline gap-x-4">
					<h3 class="text-[16px] font-semibold">{line.name}</h3>
					<span class="small"
						>{line.students}
						{line.students === 1 ? 'student' : 'students'}, {line.minutes} minutes{line.room
							? `, room ${line.room}`
							: ''}</span
					>
					{#if line.slot === null}<span class="notch text-[13.5px]">not chosen yet</span>{/if}
				</div>
				<div class="flex flex-wrap gap-x-5 gap-y-3">
					{#each daysOf(one) as day (day.day)}
						<div>
							<div class="small mb-1">{day.day}</div>
							<div class="flex flex-wrap gap-1">
								{#each day.blocks as block (block.slot)}
									{@const against = line.against[block.at] ?? ''}
									{@const on = line.slot === block.slot}
									<button
										class="pick"
										class:on
										class:off={!!against}
										aria-pressed={on}
										aria-disabled={!!against}
										aria-label="{line.name}, {day.day}, block {block.name}, {block.time}{against ? `: ${against}` : ''}"
										title={against || `${block.time}, block ${block.name}`}
										disabled={busy === line.key}
										onclick={() =>
											against
												? (told = { key: line.key, says: `${day.day}, block ${block.name}: ${against}` })
												: choose(one, line, block.slot)}
										><b class="block font-semibold">{block.name}</b><span class="text-[11px]"
											>{block.time.replace(/ .M/, '')}</span
										></button
									>
								{/each}
							</div>
						</div>
					{/each}
				</div>
				{#if told.key === line.key}<p class="small mt-2" role="status">{told.says}</p>{/if}
			</section>
		{/each}
	{/each}
{:else}
	<Notice text={problem} onclose={() => (problem = '')} />
{/if}

<style>
	.pick {
		min-width: 46px;
		padding: 3px 6px;
		line-height: 1.2;
		text-align: center;
		color: var(--color-ink);
		background: var(--color-sheet);
		border: 1px solid var(--color-edge);
		border-radius: 4px;
		cursor: pointer;
	}
	.pick:hover:not(.off):not(.on) {
		background: var(--color-wash);
	}
	.pick.on {
		color: var(--color-white);
		background: var(--color-petrol);
		border-color: var(--color-petrol);
	}
	.pick.off {
		color: var(--color-ink2);
		background: var(--color-paper);
		border-color: var(--color-hair2);
		border-style: dashed;
		cursor: help;
	}
</style>
