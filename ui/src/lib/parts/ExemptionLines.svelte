<script lang="ts">
	import { api, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';

	/** Exemptions, each with its reason, and the end of one. */
	let {
		lines,
		may,
		named = false,
		onended
	}: { lines: Schemas['ExemptionLine'][]; may: boolean; named?: boolean; onended: () => unknown } = $props();
	let problem = $state('');

	async function end(id: string) {
		try {
			await api.DELETE('/api/participation/exemptions/{exemption_id}', { params: { path: { exemption_id: id } } });
			await onended();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Notice text={problem} onclose={() => (problem = '')} />
{#each lines as e (e.id)}
	<div class="flex flex-wrap items-center gap-2 border-t border-hair2 py-1.5 text-[14px] first:border-t-0">
		<span class="flex-1" class:text-ink2={!e.holds}
			>{#if named}{#if e.person}<a class="word" href="/people/{e.person}">{staff.name(e.who, Number(e.person))}</a
					>{:else}{e.who}{/if}:
			{/if}{staff.veiled ? '·····' : e.reason}, {e.subject || 'all subjects'}<span class="small block leading-tight"
				>{e.window ? `${e.window}, ` : ''}from {day(e.starts)}{e.ends ? ` until ${day(e.ends)}` : ''}{e.holds
					? ''
					: ', not in force'}{e.asked_by ? `; asked by ${e.asked_by}` : ''}{e.instead ? `; ${e.instead}` : ''}; entered
				by {e.by}</span
			></span
		>
		{#if may && e.holds}<Ask
				label="End"
				quiet
				question="End this exemption? The tests are owed again."
				yes="End exemption"
				onyes={() => end(e.id)}
			/>{/if}
	</div>
{/each}
