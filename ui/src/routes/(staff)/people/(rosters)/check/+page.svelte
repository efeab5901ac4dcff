<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Finding of="Roster check" class="mb-3">{shown.data?.finding ?? ''}</Finding>
{#if shown.records?.runs.length}<p class="-mt-2 mb-3 text-[13.5px] text-ink2">
		<a class="word" href="/people/records">Since the last time</a>: {shown.records.finding}
	</p>{/if}
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.done.length}
	<div class="sheet mb-3 px-4 py-2 text-[13.5px]" role="status">
		<b>Settled here:</b>
		{shown.done.join('; ')}. The next roster does not undo it. Have it changed in the school's records as well.
	</div>
{/if}
{#each shown.kinds as { kind, list } (kind)}
	<Panel label={shown.WORDS[kind]} class="mb-3">
		<h2 class="flex items-baseline gap-2 border-b border-hair px-4 py-2">
			{shown.WORDS[kind]}
			<span class="small font-normal"
				>{shown.data?.counts[kind]}; {list[0]?.cause}{(shown.data?.counts[kind] ?? 0) > list.length
					? `; the first ${list.length} are shown`
					: ''}</span
			>
		</h2>
		{#each list as d, at (d.who + at)}
			<div
				class="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-hair2 px-4 py-2 text-[14px] last:border-b-0"
			>
				<span class="min-w-[280px] flex-1"><b class="font-semibold">{shown.shown(d, at)}</b> {shown.what(d)}</span>
				{#each d.steps as step, n (step.label)}
					{@const key = `${kind} ${d.who} ${at} ${n}`}
					<span class="flex items-center gap-1.5">
						{#if step.choices.length}
							<Select
								label="{step.label}: choose for {shown.shown(d, at)}"
								choices={[
									{ value: undefined, label: 'choose' },
									...step.choices.map((c) => ({ value: c.id, label: c.name }))
								]}
								bind:value={shown.picked[key]}
								class="mt-0 w-auto max-w-[190px]"
							/>
							<Button disabled={!shown.picked[key]} onclick={() => shown.settle(d, step, key)}>{step.label}</Button>
						{:else if shown.LOSS[step.step]}
							<Ask
								label={shown.label(step, n)}
								question={shown.LOSS[step.step] ?? ''}
								yes={step.step === 'merge' ? 'Merge' : 'Set aside'}
								onyes={() => shown.settle(d, step, key)}
							/>
						{:else}
							<Button onclick={() => shown.settle(d, step, key)}>{shown.label(step, n)}</Button>
						{/if}
					</span>
				{/each}
			</div>
		{/each}
	</Panel>
{/each}
{#if shown.data?.decisions.length}
	<Panel label="Decisions against the records" class="mb-3">
		<h2 class="border-b border-hair px-4 py-2">
			Decisions against the records <span class="small font-normal"
				>{shown.data.decisions.length}; they hold until the records agree or you undo them</span
			>
		</h2>
		{#each shown.data.decisions as d (d.id)}
			<div class="flex items-center gap-3 border-b border-hair2 px-4 py-1.5 text-[13.5px] last:border-b-0">
				<span class="flex-1"
					>{staff.veiled ? 'A decision about a student' : d.says}<span class="small block"
						>{d.by}, {dateTime(d.at, staff.calendar?.zone ?? 'UTC')}</span
					></span
				><Button kind="quiet" onclick={() => shown.withdraw(d.id)}>Undo</Button>
			</div>
		{/each}
	</Panel>
{/if}
{#if shown.data && !shown.kinds.length}<p class="sheet p-6 text-ink2">
		Problems appear here: students in two classes of a subject or in none, duplicate records, classes without a teacher
		or students.
	</p>{/if}
