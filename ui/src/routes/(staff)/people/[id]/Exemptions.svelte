<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import ExemptionLines from '$lib/parts/ExemptionLines.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** Tests that a student does not have to take, with the reason and what happens instead. */
	let { person, may }: { person: string; may: boolean } = $props();
	let found = $state<Schemas['ExemptionsPage'] | null>(null);
	let problem = $state('');
	let adding = $state(false);
	const EMPTY = { reason: '', subject: '', asked_by: '', instead: '', note: '', ends: '' };
	let wish = $state({ ...EMPTY });

	async function load() {
		try {
			found = await body(api.GET('/api/participation/exemptions', { params: { query: { person } } }));
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => void load());

	async function add(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			await api.POST('/api/participation/exemptions', {
				body: { ...wish, people: [person], group: null, window: null, starts: null, ends: wish.ends || null }
			});
			[adding, wish] = [false, { ...EMPTY }];
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Panel label="Exemptions" class="p-4 text-[14px]">
	<div class="small">Exemptions</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	<ExemptionLines lines={found?.exemptions ?? []} {may} onended={load} />
	{#if found && !found.exemptions.length}<div class="mb-1">none</div>{/if}
	{#if may && !adding}<Button onclick={() => (adding = true)}>Exempt</Button>{/if}
	{#if adding}
		<form class="mt-2 flex flex-col gap-2" onsubmit={add}>
			<label class="field"
				>Reason<Select
					bind:value={wish.reason}
					choices={(found?.reasons ?? []).map((r) => ({ value: r, label: r }))}
					placeholder="Choose a reason"
				/></label
			>
			<label class="field"
				>Subject<Select
					bind:value={wish.subject}
					choices={[
						{ value: '', label: 'all subjects' },
						...(found?.subjects ?? []).map((s) => ({ value: s, label: s }))
					]}
				/></label
			>
			<DateField label="Until (empty: no end)" bind:value={wish.ends} />
			<label class="field"
				>Who asked for it<input
					class="input"
					maxlength="300"
					placeholder="parent, by phone on Nov 3"
					bind:value={wish.asked_by}
				/></label
			>
			<label class="field"
				>During the test<input
					class="input"
					maxlength="300"
					placeholder="reads in the library"
					bind:value={wish.instead}
				/></label
			>
			<div class="flex gap-2">
				<Button type="submit" kind="primary" disabled={!wish.reason}>Save</Button><Button
					onclick={() => (adding = false)}>Cancel</Button
				>
			</div>
		</form>
	{/if}
</Panel>
