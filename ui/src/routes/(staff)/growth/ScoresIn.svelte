<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { withJob } from '$lib/api/job';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Select from '$lib/design/Select.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import ColumnGrid from '$lib/parts/ColumnGrid.svelte';
	import FilePick from '$lib/parts/FilePick.svelte';
	import PasteTable from '$lib/parts/PasteTable.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import PreviewDecision from '$lib/parts/PreviewDecision.svelte';
	import { day, whole } from '$lib/words/show';

	/** Scores in: a file whose columns are matched, a pasted table, the test service, or typed one by one; names that are not certain are
	 * settled once. */
	let { measure, onapplied }: { measure: Schemas['MeasureLine']; onapplied: () => void } = $props();
	let columns = $state<Schemas['ScoreColumns'] | null>(null);
	let matched = $state<Record<string, string>>({});
	let preview = $state<Schemas['Preview'] | null>(null);
	let doubts = $state<Schemas['Doubt'][]>([]);
	let service = $state<Schemas['TestService'] | null>(null);
	let pasted = $state('');
	let problem = $state('');
	let busy = $state('');
	let progress = $state('');
	let typed = $state({ person: '', name: '', window: '', score: '', se: '' });
	let level = $state<Schemas['TypedLevel'] | null>(null);
	let asked = 0;
	let chosen: File[] = [];
	let fetched = '';
	const path = $derived({ measure: measure.id });

	function form(files: File[], matching = '') {
		const data = new FormData();
		for (const file of files) data.append('files', file, file.name);
		if (matching) data.append('matching', matching);
		return { body: data as never, bodySerializer: (b: unknown) => b as never };
	}

	async function work(word: string, go: (job: string) => Promise<void>) {
		[busy, problem] = [word, ''];
		try {
			await withJob((far) => (progress = far), go);
		} catch (error) {
			problem = said(error);
		}
		busy = '';
	}

	async function choose(files: File[]) {
		if (!files.length) return;
		[chosen, fetched, preview, columns] = [files, '', null, null];
		await work('Reading …', async (job) => {
			if (files.length === 1) {
				const found = await body(
					api.POST('/api/growth/measures/{measure}/columns', { params: { path }, ...form(files) })
				);
				if (!found.known) {
					columns = found;
					matched = Object.fromEntries(found.columns.map((c) => [c.name, c.field]));
					return;
				}
			}
			await look(job);
		});
	}

	async function look(job: string) {
		const query = { job };
		preview = fetched
			? await body(
					api.POST('/api/growth/measures/{measure}/fetch', { params: { path, query }, body: { path: fetched } })
				)
			: await body(
					api.POST('/api/growth/measures/{measure}/imports', {
						params: { path, query },
						...form(chosen, columns ? JSON.stringify({ matched }) : '')
					})
				);
		doubts = await body(
			api.GET('/api/growth/measures/{measure}/imports/{import_id}/doubts', {
				params: { path: { ...path, import_id: preview.id } }
			})
		);
	}

	async function settle(written: string, person: string) {
		await work('Saving …', async (job) => {
			await body(api.PUT('/api/growth/names', { body: { written, person } }));
			await look(job);
		});
	}

	async function apply(sure: boolean) {
		await work('Importing …', async (job) => {
			if (!preview) return;
			preview = await body(
				api.POST('/api/growth/measures/{measure}/imports/{import_id}/apply', {
					params: { path: { ...path, import_id: preview.id }, query: { job } },
					body: { yes: sure }
				})
			);
			[doubts, columns, pasted] = [[], null, ''];
			onapplied();
		});
	}

	async function openService() {
		await work('Asking the test service …', async () => {
			service = await body(api.GET('/api/growth/service'));
		});
	}

	async function fetchFile(from: string) {
		[fetched, columns, preview] = [from, null, null];
		await work('Fetching …', look);
	}

	/** The cut scores that hold, as one types. */
	async function weigh() {
		const mine = ++asked;
		if (!typed.person || !typed.window) return void (level = null);
		try {
			const said = await body(
				api.POST('/api/growth/measures/{measure}/scores/level', {
					params: { path },
					body: { person: typed.person, window: typed.window, score: typed.score, se: null }
				})
			);
			if (mine === asked) level = said;
		} catch {
			level = null;
		}
	}

	async function type(event: Event) {
		event.preventDefault();
		await work('Saving …', async () => {
			await body(
				api.POST('/api/growth/measures/{measure}/scores', {
					params: { path },
					body: {
						person: typed.person,
						window: typed.window,
						score: typed.score,
						se: typed.se.trim() ? Number(typed.se) : null
					}
				})
			);
			typed = { ...typed, person: '', name: '', score: '' };
			level = null;
			onapplied();
		});
	}
	const scoreFiles = $derived((service?.files ?? []).filter((f) => f.kind === 'scores'));
</script>

<Panel label="Scores of {measure.name}" class="px-5 py-4">
	<FilePick accept=".csv,.tsv,.txt,.xlsx" onfiles={choose}>
		<Button onclick={openService}>Fetch from the test service</Button>
		<span class="small min-w-0 flex-1"
			>CSV or XLSX, whatever its columns are called: students by number, or by name and birth date. Scores that are here
			already change nothing.</span
		>
		<span class="small" role="status">{progress || busy}</span>
	</FilePick>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if service}
		<div class="mt-3 border-t border-hair pt-3 text-[14px]">
			{#if service.problem}<p>{service.problem}</p>
			{:else if !service.address}<p>No test service is set up; name its address in the settings.</p>
			{:else}<p class="small mb-1">Test service at {service.address}</p>
				<ul class="flex flex-wrap gap-2">
					{#each scoreFiles as file (file.path)}<li>
							<Button disabled={!!busy} onclick={() => fetchFile(file.path)}>{file.title}</Button>
						</li>{/each}
				</ul>{/if}
		</div>
	{/if}
	{#if !preview && !columns}
		<div class="mt-3 grid gap-4 border-t border-hair pt-3 lg:grid-cols-2">
			<div>
				<PasteTable
					sample={'student,grade,window,score,se\n4711,7,Fall,221,4'}
					busy={!!busy}
					bind:text={pasted}
					onfiles={choose}
				/>
			</div>
			<form class="flex flex-wrap items-end gap-3" onsubmit={type}>
				<div class="w-[220px]">
					{#if typed.person}<span class="field"
							>Student<span class="flex items-center gap-2 py-1.5"
								>{typed.name}
								<Button kind="quiet" onclick={() => (typed = { ...typed, person: '', name: '' })}>Change</Button></span
							></span
						>
					{:else}<PersonPick
							kind="student"
							label="Or type one score: student"
							onpick={(p) => {
								typed = { ...typed, person: p.id, name: p.name };
								void weigh();
							}}
						/>{/if}
				</div>
				<label class="field"
					>Window, month or day<input
						class="input w-[150px]"
						required
						list="occasions-{measure.id}"
						bind:value={typed.window}
						onchange={weigh}
					/></label
				>
				<datalist id="occasions-{measure.id}"
					>{#each measure.windows as w (w.id)}<option value={w.name}></option>{/each}</datalist
				>
				{#if measure.levels.length}
					<label class="field"
						>Level<Select
							bind:value={typed.score}
							choices={measure.levels.map((l) => ({ value: l, label: l }))}
						/></label
					>
				{:else}
					<label class="field"
						>Score<input
							class="input w-[90px]"
							inputmode="decimal"
							required
							bind:value={typed.score}
							oninput={weigh}
						/></label
					>
					<label class="field"
						>Standard error<input class="input w-[90px]" inputmode="decimal" bind:value={typed.se} /></label
					>
				{/if}
				<Button type="submit" disabled={!typed.person || !typed.score || !!busy}>Save score</Button>
				<p class="small basis-full">
					{#if level?.problem}{level.problem}.{:else}The scale is {measure.low} to {measure.high}.{/if}
					{#if level?.says}<b class="text-ink">{level.says}</b>{/if}
					<a class="word" href="/growth/{measure.id}/cuts">Cut scores{measure.cuts.length ? '' : ': none yet'}</a>
				</p>
			</form>
		</div>
	{/if}
	{#if columns && !preview}
		<div class="mt-3 border-t border-hair pt-3">
			<h2>{whole(columns.rows)} rows. Choose what each column contains.</h2>
			<ColumnGrid {columns} bind:matched />
			<div class="mt-3 flex gap-2">
				<Button kind="primary" disabled={!!busy} onclick={() => work('Reading …', look)}>Preview</Button>
				<Button onclick={() => (columns = null)}>Cancel</Button>
			</div>
		</div>
	{/if}
	{#if doubts.length && preview && !preview.applied}
		<section class="mt-3 border-t border-hair pt-3" aria-label="Names that are not certain">
			<h2>{doubts.length === 1 ? 'One name is' : `${doubts.length} names are`} not certain. Who is meant?</h2>
			<ul class="mt-1">
				{#each doubts as d (d.written)}
					<li class="flex flex-wrap items-center gap-2 border-b border-hair py-2 text-[14px]">
						<span class="min-w-[260px]"
							><b class="font-semibold">{d.name || 'no name'}</b>{d.born ? `, born ${day(d.born)}` : ''}{d.grade
								? `, grade ${d.grade}`
								: ''} <span class="small block">{d.why}</span></span
						>
						{#each d.candidates as c (c.id)}<Button disabled={!!busy} onclick={() => settle(d.written, c.id)}
								>{c.name}, grade {c.grade}{c.born ? `, born ${day(c.born)}` : ''}</Button
							>{/each}
						<Button kind="quiet" disabled={!!busy} onclick={() => settle(d.written, '')}>Not a student here</Button>
					</li>
				{/each}
			</ul>
			<p class="small mt-1">What you decide is remembered for the next file.</p>
		</section>
	{/if}
	{#if preview}<PreviewDecision
			{preview}
			busy={!!busy}
			onapply={apply}
			oncancel={() => ((preview = null), (doubts = []))}
			onclose={() => (preview = null)}
		/>{/if}
</Panel>
