<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import DateField from '$lib/design/DateField.svelte';
	import Select from '$lib/design/Select.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';

	/** Tests that a student does not have to take, with the reason and what happens instead. */
	let { person, may }: { person: string; may: boolean } = $props();
	let found = $state<Schemas['ExemptionsOut'] | null>(null);
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

	async function end(id: string) {
		try {
			await api.DELETE('/api/participation/exemptions/{exemption_id}', { params: { path: { exemption_id: id } } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<section class="sheet p-4 text-[14px]" aria-label="Exemptions">
	<div class="small">Exemptions</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#each found?.exemptions ?? [] as e (e.id)}
		<div class="flex flex-wrap items-center gap-2 py-1">
			<span class="flex-1" class:text-ink2={!e.holds}
				>{staff.veiled ? '·····' : e.reason}, {e.subject || 'all subjects'}<span class="small block leading-tight"
					>from {day(e.starts)}{e.ends ? ` until ${day(e.ends)}` : ''}{e.holds ? '' : ', not in force'}{e.asked_by
						? `; asked by ${e.asked_by}`
						: ''}{e.instead ? `; ${e.instead}` : ''}; entered by {e.by}</span
				></span
			>
			{#if may && e.holds && e.person}<Ask
					label="End"
					quiet
					question="End this exemption? The tests are owed again."
					yes="End exemption"
					onyes={() => end(e.id)}
				/>{/if}
		</div>
	{:else}<div class="mb-1">{found ? 'none' : ''}</div>{/each}
	{#if may && !adding}<button class="btn" onclick={() => (adding = true)}>Exempt</button>{/if}
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
						...['Mathematics', 'Reading', 'Science'].map((s) => ({ value: s, label: s }))
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
				<button class="btn primary" disabled={!wish.reason}>Save</button><button
					type="button"
					class="btn"
					onclick={() => (adding = false)}>Cancel</button
				>
			</div>
		</form>
	{/if}
</section>
