<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import RichField from '$lib/bank/editor/RichField.svelte';
	import { keepMedia } from '$lib/bank/editor/pictures';
	import Notice from '$lib/parts/Notice.svelte';
	import Stimulus from '$lib/sitting/question/Stimulus.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import NewItem from '../../NewItem.svelte';

	/** A stimulus: as the student sees it, its items, and writing its next version. */
	const fresh = $derived(page.params.id === 'new');
	const EMPTY: Schemas['StimulusIn'] = {
		number: 0,
		code: '',
		subject: '',
		grade: '',
		title: '',
		kind: 'passage',
		html: '',
		numbered: true,
		media: '',
		told: '',
		credit: ''
	};
	let found = $state<Schemas['StimulusDetail'] | null>(null);
	let form = $state<Schemas['StimulusIn']>({ ...EMPTY });
	let editing = $state(false);
	let adding = $state(false);
	let busy = $state(false);
	let problem = $state('');
	const KINDS = [
		['passage', 'Passage'],
		['picture', 'Picture'],
		['table', 'Table'],
		['data', 'Set of data'],
		['audio', 'Sound']
	] as const;
	const medial = $derived(form.kind === 'picture' || form.kind === 'audio');
	const seen = $derived<Schemas['StimulusView']>({
		id: '',
		code: form.code ?? '',
		number: 1,
		title: form.title,
		kind: form.kind,
		html: form.html ?? '',
		numbered: form.numbered ?? false,
		media: form.media ?? '',
		told: form.told ?? '',
		credit: form.credit ?? ''
	});

	onMount(load);
	async function load() {
		if (fresh) return void (editing = true);
		try {
			found = await body(
				api.GET('/api/bank/stimuli/{stimulus_id}', { params: { path: { stimulus_id: page.params.id ?? '' } } })
			);
			const { view } = found;
			form = {
				number: view.number,
				code: view.code,
				subject: found.subject,
				grade: found.grade,
				title: view.title,
				kind: view.kind,
				html: view.html,
				numbered: view.numbered,
				media: view.media,
				told: view.told,
				credit: view.credit
			};
		} catch (error) {
			problem = said(error);
		}
	}

	async function choose(event: Event) {
		const file = (event.currentTarget as HTMLInputElement).files?.[0];
		if (!file) return;
		try {
			form.media = (await keepMedia(file)).key;
			problem = '';
		} catch (error) {
			problem = said(error);
		}
	}

	async function save(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		try {
			const what = $state.snapshot(form);
			if (fresh) {
				const made = await body(api.POST('/api/bank/stimuli', { body: what }));
				await goto(`/bank/stimuli/${made.item_id}`, { replaceState: true });
			} else
				await api.PUT('/api/bank/stimuli/{stimulus_id}', {
					params: { path: { stimulus_id: page.params.id ?? '' } },
					body: what
				});
			problem = '';
			editing = false;
			await load();
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<svelte:head><title>{found?.view.title ?? 'A stimulus'} · Bildung</title></svelte:head>
<div class="small mb-1">
	<a class="word" href="/bank">Bank</a> · <a class="word" href="/bank/stimuli">Stimuli</a>{found
		? ` · ${found.view.code}`
		: ''}
</div>
<div class="mb-3 flex items-start gap-3">
	<h1 class="flex-1">
		{found
			? `${found.view.title}: ${found.items.length} ${found.items.length === 1 ? 'item is' : 'items are'} about it.`
			: fresh
				? 'A new stimulus.'
				: ''}
	</h1>
	{#if found && staff.may('bank.write')}<button class="btn" aria-expanded={adding} onclick={() => (adding = !adding)}
			>Write an item about it</button
		>{/if}
	{#if found?.may_change}<button
			class="btn {editing ? '' : 'primary'}"
			aria-expanded={editing}
			onclick={() => (editing = !editing)}>{editing ? 'Leave it as it was' : 'Write the next version'}</button
		>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if adding && found}<div class="mb-3">
		<NewItem
			subject={found.subject}
			grade={found.grade}
			standard=""
			subjects={[found.subject].filter(Boolean)}
			stimulus={found.view.id}
		/>
	</div>{/if}
<div class="grid items-start gap-3 {editing ? 'grid-cols-2' : 'grid-cols-[minmax(0,1.4fr)_minmax(0,1fr)]'}">
	{#if editing}
		<form class="sheet grid gap-3 p-4" onsubmit={save} aria-label="Write">
			{#if fresh}
				<div class="grid grid-cols-3 gap-2">
					<label class="field">Code<input class="input" required maxlength="40" bind:value={form.code} /></label>
					<label class="field">Subject<input class="input" maxlength="60" bind:value={form.subject} /></label>
					<label class="field">Grade<input class="input" maxlength="10" bind:value={form.grade} /></label>
				</div>
			{/if}
			<div class="grid grid-cols-[1fr_160px] gap-2">
				<label class="field">Title<input class="input" required maxlength="120" bind:value={form.title} /></label>
				<label class="field"
					>Kind<select class="input" bind:value={form.kind}
						>{#each KINDS as [value, word] (value)}<option {value}>{word}</option>{/each}</select
					></label
				>
			</div>
			{#if medial}
				<label class="btn cursor-pointer justify-self-start has-focus-visible:outline-2"
					>{form.media ? 'Another file' : form.kind === 'audio' ? 'Choose a sound (WAV)' : 'Choose a picture'}<input
						class="sr-only"
						type="file"
						accept={form.kind === 'audio' ? 'audio/wav,.wav' : 'image/png,image/jpeg,image/webp,image/gif'}
						onchange={choose}
					/></label
				>
				<label class="field"
					>{form.kind === 'audio'
						? 'What is said, word for word'
						: 'What it shows, in words for who cannot see it'}<textarea
						class="input"
						rows="4"
						required
						bind:value={form.told}></textarea></label
				>
			{:else}
				<div class="field">
					Text<RichField html={form.html ?? ''} label="Text" onchange={(html) => (form.html = html)} />
				</div>
				{#if form.kind === 'passage'}<label class="flex items-center gap-2"
						><input type="checkbox" class="accent-petrol" bind:checked={form.numbered} /> number its lines</label
					>{/if}
			{/if}
			<label class="field">Where it comes from<input class="input" maxlength="400" bind:value={form.credit} /></label>
			<div class="flex items-center gap-3">
				<button class="btn primary" disabled={busy}>{fresh ? 'Keep it' : 'Keep the next version'}</button
				>{#if found?.items.length}<span class="small"
						>Its {found.items.length}
						{found.items.length === 1 ? 'item gets its' : 'items get their'} next version with it; results stay with what
						was sat.</span
					>{/if}
			</div>
		</form>
		<section class="sheet p-5 text-[18px] leading-relaxed" aria-label="As the student sees it">
			<Stimulus stimulus={seen} />
		</section>
	{:else if found}
		<section class="sheet p-5 text-[18px] leading-relaxed" aria-label="As the student sees it">
			<Stimulus stimulus={found.view} />
		</section>
		<section class="sheet p-4" aria-label="Items about it">
			<h2 class="mb-1">Items about it</h2>
			{#each found.items as item (item.id)}<p class="border-b border-hair2 py-1.5">
					<a class="word" href="/bank/items/{item.id}"><code>{item.code}</code></a>
					{item.text}
				</p>{:else}<p class="small">None yet.</p>{/each}
		</section>
	{/if}
</div>
