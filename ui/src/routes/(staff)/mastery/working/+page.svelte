<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { Doing } from '$lib/state/doing.svelte';
	import { day } from '$lib/words/show';
	import { STATES, TINTS } from '../states';
	import type { PageProps } from './$types';

	/** Groups that work on a standard: how they stand, who is ready to leave, when to look again. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const doing = new Doing(() => invalidate('mastery:groups'));
	const problem = $derived(doing.problem || data.problem);

	const leave = (group: Schemas['KeptGroup'], people: string[]) =>
		doing.do(() =>
			api.POST('/api/mastery/groups/{id}/leave', { params: { path: { id: group.id } }, body: { people } })
		);
	const put = (group: Schemas['KeptGroup'], check_on: string) =>
		doing.do(() =>
			api.PATCH('/api/mastery/groups/{id}', {
				params: { path: { id: group.id } },
				body: { purpose: group.purpose, check_on: check_on || null }
			})
		);
	const ready = (group: Schemas['KeptGroup']) => group.members.filter((m) => m.ready).map((m) => m.person);
</script>

<div class="small mb-1"><a class="word" href="/mastery">Mastery</a></div>
<Notice text={problem} onclose={() => (doing.problem = '')} />
{#if page}
	<Finding of="Groups at work" station="Mastery" class="mb-3 max-w-[860px]" live>{page.finding}</Finding>
	<div class="grid gap-3 lg:grid-cols-2">
		{#each page.groups as g (g.id)}
			<Panel label={g.name} class="px-4 py-3">
				<div class="flex flex-wrap items-start gap-2">
					<div class="flex-1">
						<h2 class="text-[15px]"><a class="word" href="/people/groups/{g.id}">{g.name}</a></h2>
						<p class="small">
							{g.code}, {g.text}; since {day(g.since)}{g.purpose ? `; ${g.purpose}` : ''}
						</p>
					</div>
					{#if g.due}<b class="text-[13px] text-vermilion">Look again</b>{/if}
				</div>
				<ul class="mt-2 text-[14px]">
					{#each g.members as m (m.person)}<li
							class="flex items-center gap-2 border-b border-hair2 py-0.5 last:border-0"
						>
							<i
								class="inline-block h-3 w-4 rounded-[2px] border border-hair"
								style="background: {TINTS[STATES.indexOf(m.state)]}"
							></i>
							<a class="word flex-1" title={m.says} href="/mastery/{m.person}?subject={encodeURIComponent(g.subject)}"
								>{staff.name(m.name, m.alias)}</a
							>
							<span class="small">{m.state}{m.ready ? ', ready to leave' : ''}</span>
							{#if g.may_change}<Button
									kind="quiet"
									class="min-h-[24px]"
									aria-label="Remove {staff.name(m.name, m.alias)}"
									onclick={() => leave(g, [m.person])}>Remove</Button
								>{/if}
						</li>{:else}<li class="small">No one is in it any more.</li>{/each}
				</ul>
				{#if g.may_change}
					<div class="mt-2 flex flex-wrap items-end gap-3">
						<DateField
							label="Look again on"
							value={g.check_on ?? ''}
							min={page.today}
							onchange={(to) => to !== (g.check_on ?? '') && put(g, to)}
						/>
						{#if ready(g).length > 1}<Button onclick={() => leave(g, ready(g))}
								>Remove all {g.ready} who are ready</Button
							>{/if}
					</div>
				{:else if g.check_on}<p class="small mt-2">To be looked at again on {day(g.check_on)}.</p>{/if}
			</Panel>
		{/each}
	</div>
{/if}
