<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import { whole } from '$lib/words/show';
	import ItemHead from '../ItemHead.svelte';
	import type { PageProps } from './$types';

	/** Responses that say the same, most frequent first; a group is scored at once. */
	let { data, params }: PageProps = $props();
	const page = $derived(data.page);
	type Group = Schemas['ResponseGroup'];
	let problem = $derived(data.problem);
	let done = $state('');
	/** By group and criterion, until it is kept. */
	let chosen = $state<Record<string, string[]>>({});
	const most = $derived(Math.max(1, ...(page?.groups ?? []).map((g) => g.n)));
	const open = (sitting: string) => `/scoring/${params.place}?window=${data.window}&sitting=${sitting}`;
	const given = (group: Group) =>
		group.given.map((g) => `${whole(g.n)} × ${g.code ? g.code.replace('_', ' ') : `${g.points}`}`).join(', ');

	function choose(group: Group, criterion: number, value: string) {
		const now = chosen[group.says] ?? page?.criteria.map(() => '') ?? [];
		chosen[group.says] = now.map((old, at) => (at === criterion ? value : old));
	}

	async function score(group: Group) {
		try {
			const criteria = (chosen[group.says] ?? []).map(Number);
			const kept = await body(
				api.POST('/api/scoring/items/{place}/groups', {
					params: { path: { place: params.place } },
					body: { window: data.window, says: group.says, criteria, code: '' }
				})
			);
			done = kept.says;
			problem = '';
			await invalidate('bildung:groups');
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<ItemHead {page} of="responses that say the same" bind:problem {done} />
{#if page}
	<div>
		<Table within="sheet">
			<thead><tr><th>Response</th><th>Given by</th><th>Scored so far</th><th>Score all that wait</th></tr></thead>
			<tbody>
				{#each page.groups as group (group.says)}
					<tr>
						<td class="max-w-[420px]"
							><span class="line-clamp-3 whitespace-pre-wrap" dir="auto">{group.written || 'no letters or digits'}</span
							>{#if group.ways > 1}<span class="small block leading-tight">written in {group.ways} ways</span>{/if}<a
								class="word small inline-block min-h-[24px]"
								href={open(group.first)}>open one</a
							></td
						>
						<td class="w-[150px]"
							><span class="block h-[12px] border border-ink2 bg-relief4" style:width="{(120 * group.n) / most}px"
							></span><span class="small">{whole(group.n)} {group.n === 1 ? 'student' : 'students'}</span></td
						>
						<td class="w-[150px] text-[13.5px]">{given(group)}</td>
						<td>
							{#if group.waiting}
								<div class="flex flex-wrap items-end gap-2">
									{#each page.criteria as criterion, at (at)}
										<div>
											{#if page.criteria.length > 1}<span class="small block leading-tight"
													>{criterion.title || `Criterion ${at + 1}`}</span
												>{/if}
											<ToggleGroup
												label="{criterion.title || 'Points'} for “{group.written.slice(0, 40)}”"
												choices={[...criterion.levels]
													.sort((a, b) => a.points - b.points)
													.map((level) => ({ value: `${level.points}`, label: `${level.points}` }))}
												value={chosen[group.says]?.[at] ?? ''}
												onchange={(value) => choose(group, at, value)}
											/>
										</div>
									{/each}
									<Button
										kind="primary"
										class="min-h-[32px]"
										disabled={!chosen[group.says]?.every((value) => value !== '')}
										onclick={() => void score(group)}>Score {whole(group.waiting)}</Button
									>
								</div>
							{:else}<span class="small">none waits for you</span>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</Table>
		{#if page.more}<p class="small mt-2">and {whole(page.more)} more that are given by fewer students</p>{/if}
		<p class="small mt-2">
			Case, spaces and punctuation make no difference, nor how a number is written. What someone else has open is left.
		</p>
	</div>
{/if}
