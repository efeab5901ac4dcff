<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Pagination from '$lib/design/Pagination.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { Doing } from '$lib/state/doing.svelte';
	import { day } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** Which sessions count as evidence of mastery, and answers whose item changed its standards. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const doing = new Doing(() => invalidate('mastery:evidence'));
	const problem = $derived(doing.problem || data.problem);
	let show = $state<'all' | 'asks' | 'out'>('all');
	let at = $state(1);
	const PER = 40;
	const some = $derived(
		(page?.sessions ?? []).filter((s) => (show === 'asks' ? s.asks : show === 'out' ? !s.counts : true))
	);
	const shown = $derived(some.slice((at - 1) * PER, at * PER));
	const asking = $derived((page?.sessions ?? []).filter((s) => s.asks));

	const put = (sessions: string[], counts: boolean | null) =>
		doing.do(() => api.PUT('/api/mastery/sessions', { body: { sessions, counts } }));
	const all = (counts: boolean) =>
		put(
			asking.map((s) => s.session),
			counts
		);
	const RULES: Record<string, string> = {
		yes: 'counts',
		no: 'does not count',
		ask: 'asks each time',
		mixed: 'frameworks differ'
	};
	const choices = (rule: string) => [
		{ value: 'rule', label: rule === 'ask' ? 'not decided' : 'by the rule' },
		{ value: 'yes', label: 'counts' },
		{ value: 'no', label: 'does not count' }
	];
	const value = (s: Schemas['SessionCounts']) => (s.decided === null ? 'rule' : s.decided ? 'yes' : 'no');
</script>

<div class="small mb-1"><a class="word" href="/mastery">Mastery</a></div>
<Notice text={problem} onclose={() => (doing.problem = '')} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start justify-between gap-2">
		<Finding of="What counts" station="Mastery" class="max-w-[860px]" live>{page.finding}</Finding>
		<Button href="/mastery/rules">Rules</Button>
	</div>
	{#if asking.length}<p class="mb-3 flex flex-wrap items-center gap-2 text-[14px]">
			Do the {asking.length === 1 ? 'session' : `${asking.length} sessions`} that the rule leaves open count?
			<Button class="min-h-[26px]" onclick={() => all(true)}>All count</Button>
			<Button class="min-h-[26px]" onclick={() => all(false)}>None count</Button>
		</p>{/if}
	<label class="field mb-2 w-[220px]"
		>Show<Select
			bind:value={show}
			onchange={() => (at = 1)}
			choices={[
				{ value: 'all', label: 'all sessions' },
				{ value: 'asks', label: `not decided (${asking.length})` },
				{ value: 'out', label: 'those that do not count' }
			]}
		/></label
	>
	<Table>
		<thead
			><tr><th>Test</th><th>Class</th><th>Day</th><th class="n">Students</th><th>By the rule</th><th>Counts</th></tr
			></thead
		>
		<tbody>
			{#each shown as s (s.session)}
				<tr>
					<td><a class="word" href="/sessions/{s.session}">{s.test}</a></td>
					<td>{s.klass}</td>
					<td class="whitespace-nowrap">{day(s.day)}</td>
					<td class="n">{s.students}</td>
					<td class="small">{RULES[s.rule]}</td>
					<td
						><Select
							small
							label="Whether {s.test} of {s.klass} counts"
							value={value(s)}
							choices={choices(s.rule)}
							onchange={(to) => put([s.session], to === 'rule' ? null : to === 'yes')}
						/></td
					>
				</tr>
			{/each}
		</tbody>
	</Table>
	<Pagination bind:page={at} count={some.length} each={PER} label="Pages of sessions" />
	{#if page.retagged.length}
		<h2 class="mt-5 text-[15px]">Items that changed standards after they were taken</h2>
		<p class="small">Answers given before stay evidence of what the item was, unless they are moved.</p>
		<Table>
			<thead
				><tr><th>Item</th><th>Changed</th><th>Was on</th><th>Is on</th><th class="n">Answers before</th><th></th></tr
				></thead
			>
			<tbody>
				{#each page.retagged as r (r.id)}
					<tr>
						<td><a class="word" href="/bank/{r.item_id}">{r.item}</a></td>
						<td>{day(r.on)}</td>
						<td>{r.before.join(', ') || 'nothing'}</td>
						<td>{r.now.join(', ') || 'nothing'}</td>
						<td class="n">{r.answers}</td>
						<td
							><Button
								class="min-h-[26px]"
								onclick={() =>
									doing.do(() => api.POST('/api/mastery/moves', { body: { changes: [r.id], back: r.moved } }))}
								>{r.moved ? 'Back to what it was' : 'Move to what it is'}</Button
							></td
						>
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
{/if}
