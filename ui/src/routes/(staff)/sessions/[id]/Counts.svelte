<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';

	/** At the end of a session whose kind the rule leaves open: does it count as evidence of mastery? */
	let { session }: { session: string } = $props();
	let found = $state.raw<Schemas['SessionCounts'] | null>(null);
	let problem = $state('');

	async function look() {
		try {
			found = await body(api.GET('/api/mastery/sessions/{session}', { params: { path: { session } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	async function put(counts: boolean | null) {
		try {
			await api.PUT('/api/mastery/sessions', { body: { sessions: [session], counts } });
			problem = '';
			await look();
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => {
		void session;
		void look();
	});
</script>

{#if found && (found.asks || found.decided !== null)}
	<p class="mb-3 flex flex-wrap items-center gap-2 text-[14px]" role="group" aria-label="Evidence of mastery">
		{#if found.asks}
			<b class="font-semibold">Does this test count as evidence of mastery?</b>
			<Button class="min-h-[26px]" onclick={() => put(true)}>It counts</Button>
			<Button class="min-h-[26px]" onclick={() => put(false)}>It does not</Button>
		{:else}
			<span>{found.counts ? 'Counts' : 'Does not count'} as evidence of mastery, by decision.</span>
			<Button kind="quiet" class="min-h-[26px]" onclick={() => put(null)}>Undo</Button>
		{/if}
		{#if problem}<span class="text-vermilion" role="alert">{problem}</span>{/if}
	</p>
{/if}
