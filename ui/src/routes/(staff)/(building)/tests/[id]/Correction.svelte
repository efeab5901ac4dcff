<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** What a correction touches: sessions that move by themselves, and those where somebody has to decide. */
	let {
		about,
		formId,
		published,
		onmoved
	}: { about: Schemas['Correction']; formId: string; published: boolean; onmoved: () => void } = $props();
	let problem = $state('');
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const open = $derived(about.touched.filter((t) => !t.closed));

	async function move(session_id: string) {
		try {
			await api.POST('/api/building/forms/{form_id}/move', {
				params: { path: { form_id: formId } },
				body: { session_id }
			});
			onmoved();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Panel label="Correction" class="mb-3 p-4">
	<p class="text-[13.5px]">{about.says}</p>
	{#if problem}<p class="mt-2 border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
	{#if open.length}
		<Table class="mt-2 w-auto">
			<thead
				><tr
					><th>Session with {about.before}</th><th>When</th><th class="n">Started</th><th class="n">Not started</th><th
					></th></tr
				></thead
			>
			<tbody>
				{#each open as t (t.session_id)}
					<tr
						><td><a class="word" href="/sessions/{t.session_id}">{t.klass}</a></td><td>{dateTime(t.start, zone)}</td><td
							class="n">{t.begun}</td
						><td class="n">{t.left}</td>
						<td
							>{#if t.moves}<span class="small">switches when this is published</span
								>{:else if published && t.left}<Button class="min-h-[26px]" onclick={() => move(t.session_id)}
									>Give the correction to the {t.left} who have not started</Button
								>{:else}<span class="small">students who have started keep their form</span>{/if}</td
						></tr
					>
				{/each}
			</tbody>
		</Table>
	{/if}
</Panel>
