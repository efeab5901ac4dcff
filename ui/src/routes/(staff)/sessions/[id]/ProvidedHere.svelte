<script lang="ts">
	import { api, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';

	/** A student's accommodations at this session, and what became of each: offered, used or refused. */
	let {
		session,
		sitting,
		name,
		onproblem
	}: { session: string; sitting: Schemas['SittingLine']; name: string; onproblem: (says: string) => void } = $props();
	const open = $derived(sitting.provided.filter((p) => !p.outcome).length);
	const CHOICES = ['offered', 'used', 'refused'].map((value) => ({ value, label: value }));

	async function record(kind: string, outcome: string) {
		try {
			await api.PUT('/api/sessions/{session_id}/sittings/{sitting_id}/accommodations', {
				params: { path: { session_id: session, sitting_id: sitting.id } },
				body: { kind, outcome }
			});
		} catch (error) {
			onproblem(said(error));
		}
	}
</script>

<Popover label="Accommodations of {name}" button="btn quiet min-h-[26px]">
	{#snippet shown()}{open ? `${open} to record` : 'recorded'}{/snippet}
	<div class="flex flex-col gap-2 p-1 text-[14px]">
		{#each sitting.provided as one (one.kind)}
			<div class="flex items-center justify-between gap-4">
				<span>{one.says}</span>
				<ToggleGroup
					label="{one.says} was"
					choices={CHOICES}
					bind:value={() => one.outcome, (to) => void record(one.kind, to)}
				/>
				{#if one.outcome}<Button kind="quiet" class="min-h-[26px]" onclick={() => record(one.kind, '')}>Clear</Button
					>{/if}
			</div>
		{/each}
	</div>
</Popover>
