<script lang="ts">
	import { api, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';
	import type { PersonPage } from './person.svelte';

	/** What a student is given when they take a test: for which tests, by whose decision, from when until when. */
	let { shown, data }: { shown: PersonPage; data: Schemas['PersonPage'] } = $props();
	type Line = Schemas['AccommodationLine'];
	const EMPTY = { kind: '', value: '', subject: '', test_kind: '', source: '', note: '', start: '', until: '' };
	/** What is being entered; id: of the line that it changes. */
	let wish = $state<(typeof EMPTY & { id: string }) | null>(null);
	let picking = $state(false);
	const takes = $derived(data.choices?.kinds.find((k) => k.name === wish?.kind)?.takes ?? '');
	const listed = (of: Schemas['KindChoice'][], none: string) => [
		{ value: '', label: none },
		...of.map((one) => ({ value: one.name, label: one.says }))
	];
	const VALUES = { time: 'Time × (1.5 = 50% more), or unlimited', language: 'Language', text: 'What', form: 'Form' };

	function edit(line: Line) {
		wish = { ...line, start: line.start ?? '', until: line.until ?? '' };
	}

	async function save(event: SubmitEvent) {
		event.preventDefault();
		if (!wish) return;
		const { id, kind, value, subject, test_kind, source, note } = wish;
		const dates = { start: wish.start || null, until: wish.until || null };
		const sent = { kind, value, subject, test_kind, source, note, ...dates };
		const done = await shown.go(
			id
				? api.PUT('/api/accommodations/{accommodation_id}', { params: { path: { accommodation_id: id } }, body: sent })
				: api.POST('/api/people/{person_id}/accommodations', { params: shown.path, body: sent })
		);
		if (done) wish = null;
	}

	const end = (line: Line) =>
		shown.go(api.DELETE('/api/accommodations/{accommodation_id}', { params: { path: { accommodation_id: line.id } } }));
	const manage = async (person_id: string | null) => {
		picking = false;
		await shown.go(api.PUT('/api/people/{person_id}/case-manager', { params: shown.path, body: { person_id } }));
	};
	const dates = (line: Line) =>
		[line.start ? `from ${day(line.start)}` : '', line.until ? `until ${day(line.until)}` : ''].join(' ').trim();
</script>

<Panel label="Accommodations">
	<div class="flex flex-wrap items-center gap-3 px-4 pt-3 pb-2">
		<h2>Accommodations</h2>
		<span class="small"
			>Case manager: {data.case_manager ? data.case_manager.name : 'none'}
			{#if data.may_support}<button class="word" type="button" onclick={() => (picking = !picking)}
					>{data.case_manager ? 'Change' : 'Assign'}</button
				>{/if}</span
		>
		{#if data.choices && !wish}<span class="ml-auto"
				><Button onclick={() => (wish = { ...EMPTY, id: '' })}>Add accommodation</Button></span
			>{/if}
	</div>
	{#if picking}
		<div class="flex items-end gap-2 px-4 pb-3">
			<div class="w-72"><PersonPick kind="staff" label="Case manager" onpick={(p) => void manage(p.id)} /></div>
			{#if data.case_manager}<Button onclick={() => manage(null)}>Remove</Button>{/if}
			<Button kind="quiet" onclick={() => (picking = false)}>Cancel</Button>
		</div>
	{/if}
	{#if staff.veiled}<p class="px-4 pb-3 text-[14px] text-ink2">Hidden with the names.</p>
	{:else}
		<Table rows={data.accommodations.length} empty="None entered.">
			<thead
				><tr
					><th>Accommodation</th><th>Tests</th><th>Source</th><th>Dates</th><th>Entered by</th><th
					></th>{#if data.may_enter}<th></th>{/if}</tr
				></thead
			>
			<tbody>
				{#each data.accommodations as line (line.id)}
					<tr class={line.holds ? '' : 'text-ink2'}>
						<td class={line.holds ? 'font-semibold' : ''}
							>{line.says}{#if line.note}<span class="small block leading-tight font-normal">{line.note}</span>{/if}</td
						>
						<td>{line.tests}</td>
						<td>{line.source_says}</td>
						<td class="whitespace-nowrap">{dates(line)}</td>
						<td>{line.entered_by}</td>
						<td class={line.approved ? '' : 'notch whitespace-nowrap'}
							>{line.standing}{line.replaces ? `, instead of ${line.replaces}` : ''}</td
						>
						{#if data.may_enter}<td class="n"
								><Menu
									quiet
									label="Actions for {line.says}"
									entries={[
										...(data.may_support && !line.approved
											? [
													{
														label: 'Approve',
														does: () =>
															void shown.go(api.POST('/api/accommodations/approve', { body: { ids: [line.id] } }))
													}
												]
											: []),
										{ label: 'Edit', does: () => edit(line) },
										...(line.holds || !line.approved ? [{ label: 'End', does: () => void end(line), grave: true }] : [])
									]}>Actions</Menu
								></td
							>{/if}
					</tr>
				{/each}
			</tbody>
		</Table>
	{/if}
	{#if wish && data.choices}
		<form class="grid grid-cols-3 items-end gap-3 border-t border-hair px-4 py-3" onsubmit={save}>
			<label class="field"
				>Accommodation<Select
					bind:value={wish.kind}
					choices={data.choices.kinds.map((k) => ({ value: k.name, label: k.says }))}
					placeholder="Choose one"
				/></label
			>
			{#if takes === 'form'}
				<label class="field"
					>Form<Select
						bind:value={wish.value}
						choices={['shortened', 'adapted'].map((f) => ({ value: f, label: f }))}
						placeholder="Choose one"
					/></label
				>
			{:else if takes}
				<label class="field"
					>{VALUES[takes as keyof typeof VALUES]}<input
						class="input"
						bind:value={wish.value}
						maxlength="200"
						placeholder={takes === 'time' ? '1.5' : ''}
						required
					/></label
				>
			{:else}<span></span>{/if}
			<label class="field"
				>Source<Select bind:value={wish.source} choices={listed(data.choices.sources, 'not given')} /></label
			>
			<label class="field"
				>Subject<Select
					bind:value={wish.subject}
					choices={[
						{ value: '', label: 'all subjects' },
						...data.choices.subjects.map((s) => ({ value: s, label: s }))
					]}
				/></label
			>
			<label class="field"
				>Kind of test<Select
					bind:value={wish.test_kind}
					choices={listed(data.choices.test_kinds, 'all tests')}
				/></label
			>
			<label class="field">Note<input class="input" bind:value={wish.note} maxlength="400" /></label>
			<DateField label="From (empty: now)" bind:value={wish.start} />
			<DateField label="Until (empty: no end)" bind:value={wish.until} />
			<div class="flex gap-2">
				<Button type="submit" kind="primary" disabled={!wish.kind}>Save</Button>
				<Button onclick={() => (wish = null)}>Cancel</Button>
			</div>
			{#if !data.may_support}<p class="small col-span-3">It takes effect once the coordinator has approved it.</p>{/if}
		</form>
	{/if}
</Panel>
