<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import RichField from '$lib/bank/editor/RichField.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Stimulus from '$lib/sitting/question/Stimulus.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import NewItem from '../../NewItem.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1">
	<a class="word" href="/bank">Bank</a> · <a class="word" href="/bank/stimuli">Stimuli</a>{shown.found
		? ` · ${shown.found.view.code}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<Finding of="Stimulus" title={shown.found?.view.title} class="flex-1">
		{shown.found
			? `${shown.found.view.title}: ${shown.found.items.length} ${shown.found.items.length === 1 ? 'item is' : 'items are'} about it.`
			: shown.fresh
				? 'A new stimulus.'
				: ''}
	</Finding>
	{#if shown.found && staff.may('bank.write')}<Button
			aria-expanded={shown.adding}
			onclick={() => (shown.adding = !shown.adding)}>New item</Button
		>{/if}
	{#if shown.found?.may_change}<Button
			class={shown.editing ? '' : 'primary'}
			aria-expanded={shown.editing}
			onclick={() => (shown.editing = !shown.editing)}
			>{shown.editing ? 'Cancel as it was' : 'Write the next version'}</Button
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.adding && shown.found}<div class="mb-3">
		<NewItem
			subject={shown.found.subject}
			grade={shown.found.grade}
			standard=""
			subjects={[shown.found.subject].filter(Boolean)}
			stimulus={shown.found.view.id}
		/>
	</div>{/if}
<div class="grid items-start gap-3 {shown.editing ? 'grid-cols-2' : 'grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)]'}">
	{#if shown.editing}
		<form class="sheet grid gap-3 p-4" onsubmit={shown.save} aria-label="Write">
			{#if shown.fresh}
				<div class="grid grid-cols-3 gap-2">
					<label class="field">Code<input class="input" required maxlength="40" bind:value={shown.form.code} /></label>
					<label class="field">Subject<input class="input" maxlength="60" bind:value={shown.form.subject} /></label>
					<label class="field">Grade<input class="input" maxlength="10" bind:value={shown.form.grade} /></label>
				</div>
			{/if}
			<div class="grid grid-cols-[1fr_160px] gap-2">
				<label class="field">Title<input class="input" required maxlength="120" bind:value={shown.form.title} /></label>
				<label class="field"
					>Kind<Select
						bind:value={shown.form.kind}
						choices={shown.KINDS.map(([value, word]) => ({ value: value, label: word }))}
					/></label
				>
			</div>
			{#if shown.medial}
				<label class="btn cursor-pointer justify-self-start has-focus-visible:outline-2"
					>{shown.form.media
						? 'Another file'
						: shown.form.kind === 'audio'
							? 'Choose a sound (WAV)'
							: 'Choose a picture'}<input
						class="sr-only"
						type="file"
						accept={shown.form.kind === 'audio' ? 'audio/wav,.wav' : 'image/png,image/jpeg,image/webp,image/gif'}
						onchange={shown.choose}
					/></label
				>
				<label class="field"
					>{shown.form.kind === 'audio'
						? 'What is said, word for word'
						: 'Alt text for students who cannot see the picture'}<textarea
						class="input"
						rows="4"
						required
						bind:value={shown.form.told}></textarea></label
				>
			{:else}
				<div class="field">
					Text<RichField html={shown.form.html ?? ''} label="Text" onchange={(html) => (shown.form.html = html)} />
				</div>
				{#if shown.form.kind === 'passage'}<Checkbox bind:checked={shown.form.numbered}>number the lines</Checkbox>{/if}
			{/if}
			<label class="field">Source<input class="input" maxlength="400" bind:value={shown.form.credit} /></label>
			<div class="flex items-center gap-3">
				<Button type="submit" kind="primary" disabled={shown.busy}
					>{shown.fresh ? 'Save' : 'Save as next version'}</Button
				>{#if shown.found?.items.length}<span class="small"
						>Its {shown.found.items.length}
						{shown.found.items.length === 1 ? 'item gets its' : 'items get their'} next version with it; results stay with
						the versions that were taken.</span
					>{/if}
			</div>
		</form>
		<Panel label="Student view" class="p-5 text-[18px] leading-relaxed">
			<Stimulus stimulus={shown.seen} />
		</Panel>
	{:else if shown.found}
		<Panel label="Student view" class="p-5 text-[18px] leading-relaxed">
			<Stimulus stimulus={shown.found.view} />
		</Panel>
		<Panel label="Items" headed class="p-4">
			{#each shown.found.items as item (item.id)}<p class="border-b border-hair2 py-1.5">
					<a class="word" href="/bank/items/{item.id}"><code>{item.code}</code></a>
					{item.text}
				</p>{:else}<p class="small">None yet.</p>{/each}
		</Panel>
	{/if}
</div>
