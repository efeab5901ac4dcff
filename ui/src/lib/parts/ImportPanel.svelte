<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import { whole } from '$lib/words/show';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import { api, said, type Schemas } from '$lib/api/client';
	import ColumnMatch from './ColumnMatch.svelte';
	import {
		apply as applyImport,
		columnsOf,
		follow,
		isSheet,
		newJob,
		preview as previewImport,
		type ImportKind,
		type Matching
	} from './imports';
	import Notice from './Notice.svelte';
	import PreviewLines from './PreviewLines.svelte';

	/** Choose files or paste a table, see what would be added, changed and left out, then apply all of it or none. */
	let {
		kind,
		accept,
		hint,
		sample = [],
		paste = '',
		title = '',
		of = '',
		onapplied
	}: {
		kind: ImportKind;
		accept: string;
		hint: string;
		sample?: { href: string; text: string }[];
		/** an example of a table to paste, where that makes sense */
		paste?: string;
		/** of what a sheet holds, where the sheet has no place for it */
		title?: string;
		/** the school or session that it is of */
		of?: string;
		onapplied: () => void;
	} = $props();

	let preview = $state<Schemas['Preview'] | null>(null);
	let columns = $state<Schemas['Columns'] | null>(null);
	let chosen: File[] = [];
	let job = $state('');
	let progress = $state<Schemas['JobOut'] | null>(null);
	let pasted = $state('');
	let busy = $state('');
	let sure = $state(false);
	let problem = $state('');
	let input: HTMLInputElement;

	const moves = $derived(preview ? (preview.counts.added ?? 0) + (preview.counts.changed ?? 0) : 0);

	/** Run one piece of work with its progress shown; what goes wrong is told, nothing is half done. */
	async function work(word: string, go: (job: string) => Promise<void>) {
		busy = word;
		problem = '';
		progress = null;
		job = newJob();
		const stop = kind === 'people' ? follow(job, (p) => (progress = p)) : () => {};
		try {
			await go(job);
		} catch (error) {
			problem = said(error);
			preview = preview?.applied ? preview : null;
		}
		stop();
		busy = '';
		if (input) input.value = '';
	}

	async function look(files: File[], matching?: Matching) {
		if (!files.length) return;
		chosen = files;
		await work('Reading …', async (job) => {
			sure = false;
			if (kind === 'people' && !matching && isSheet(files)) {
				preview = null;
				columns = await columnsOf(files);
				return;
			}
			preview = await previewImport(kind, files, job, matching, title, of);
			columns = null;
		});
	}

	const apply = () =>
		work('Applying …', async (job) => {
			if (!preview) return;
			preview = await applyImport(kind, preview.id, sure, job, of);
			onapplied();
		});

	async function stop() {
		try {
			await api.DELETE('/api/people/jobs/{job}', { params: { path: { job } } });
		} catch {
			/* it is over already */
		}
	}
</script>

<Panel label="Import" class="p-4">
	<div
		class="flex flex-wrap items-center gap-3"
		role="group"
		ondragover={(e) => e.preventDefault()}
		ondrop={(e) => {
			e.preventDefault();
			void look([...(e.dataTransfer?.files ?? [])]);
		}}
	>
		<label class="btn primary focus-within:outline-2 focus-within:outline-offset-2 focus-within:outline-petrol">
			Choose files
			<input
				bind:this={input}
				class="sr-only"
				type="file"
				multiple
				{accept}
				onchange={() => look([...(input.files ?? [])])}
			/>
		</label>
		<span class="small min-w-0 flex-1">
			{hint}
			{#if sample.length}
				No file at hand? Try a sample:
				{#each sample as s, at (s.href)}{at ? ', ' : ' '}<a class="word" href={s.href} download>{s.text}</a>{/each}.
			{/if}
		</span>
		<span class="small flex items-center gap-2" role="status">
			{busy}
			{#if busy && progress && progress.total}
				<progress class="h-2 w-32" value={progress.done} max={progress.total}
					>{progress.done} of {progress.total}</progress
				>
				{progress.what}, {whole(progress.done)} of {whole(progress.total)}
			{/if}
			{#if busy && kind === 'people'}<Button onclick={stop}>Stop</Button>{/if}
		</span>
	</div>
	{#if paste && !preview}
		<label class="field mt-3 block"
			>Or paste a table with headings
			<textarea class="input font-mono text-[12.5px]" rows="4" placeholder={paste} bind:value={pasted}></textarea>
		</label>
		<Button class="mt-2" disabled={!pasted.trim() || !!busy} onclick={() => look([new File([pasted], 'pasted table')])}
			>Preview</Button
		>
	{/if}
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if columns}<ColumnMatch {columns} busy={!!busy} onmatched={(m) => look(chosen, m)} />{/if}
	{#if preview}
		<div class="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-hair pt-3">
			<h2 class="mr-2">
				{preview.applied
					? 'Done.'
					: moves
						? 'Preview: nothing has been changed yet.'
						: 'Nothing to do: all of it is here already.'}
			</h2>
			<span class="flex-1"></span>
			{#if preview.ask}
				<Checkbox bind:checked={sure} class="basis-full border-l-4 border-vermilion py-1 pl-3"
					>{preview.ask} Yes, apply.</Checkbox
				>
			{/if}
			{#if !preview.applied}
				<Button onclick={() => (preview = null)}>Cancel</Button>
				{#if moves}<Button kind="primary" disabled={!!busy || (!!preview.ask && !sure)} onclick={apply}
						>Apply all {whole(moves)}</Button
					>{/if}
			{:else}
				<Button onclick={() => ((preview = null), (pasted = ''))}>Close</Button>
			{/if}
		</div>
		<PreviewLines counts={preview.counts} lines={preview.lines} applied={preview.applied} />
	{/if}
</Panel>
