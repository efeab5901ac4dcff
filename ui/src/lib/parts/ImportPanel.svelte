<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Button from '$lib/design/Button.svelte';
	import { whole } from '$lib/words/show';
	import { api, said, type Schemas } from '$lib/api/client';
	import ColumnMatch from './ColumnMatch.svelte';
	import FilePick from './FilePick.svelte';
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
	import PasteTable from './PasteTable.svelte';
	import PreviewDecision from './PreviewDecision.svelte';

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
	let problem = $state('');

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
	}

	async function look(files: File[], matching?: Matching) {
		if (!files.length) return;
		chosen = files;
		await work('Reading …', async (job) => {
			if (kind === 'people' && !matching && isSheet(files)) {
				preview = null;
				columns = await columnsOf(files);
				return;
			}
			preview = await previewImport(kind, files, job, matching, title, of);
			columns = null;
		});
	}

	const apply = (sure: boolean) =>
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
	<FilePick {accept} onfiles={(files) => look(files)}>
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
	</FilePick>
	{#if paste && !preview}<div class="mt-3">
			<PasteTable sample={paste} busy={!!busy} bind:text={pasted} onfiles={(files) => look(files)} />
		</div>{/if}
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if columns}<ColumnMatch {columns} busy={!!busy} onmatched={(m) => look(chosen, m)} />{/if}
	{#if preview}<PreviewDecision
			{preview}
			busy={!!busy}
			onapply={apply}
			oncancel={() => (preview = null)}
			onclose={() => ((preview = null), (pasted = ''))}
		/>{/if}
</Panel>
