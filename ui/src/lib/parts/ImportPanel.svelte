<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { api, body, said, upload, type Schemas } from '$lib/api/client';
	import Notice from './Notice.svelte';

	/** Choose files, see what would be added, changed and left out, then apply all of it or none. */
	let {
		kind,
		accept,
		hint,
		sample,
		onapplied
	}: {
		kind: 'people' | 'bank';
		accept: string;
		hint: string;
		sample: { href: string; text: string }[];
		onapplied: () => void;
	} = $props();

	const FATES = [
		['added', 'to add'],
		['changed', 'to change'],
		['left_out', 'left out'],
		['same', 'stay the same']
	] as const;
	const SHOWN = 400;
	let preview = $state<Schemas['PreviewOut'] | null>(null);
	let fate = $state<string>('');
	let busy = $state('');
	let problem = $state('');
	let input: HTMLInputElement;

	const lines = $derived((preview?.lines ?? []).filter((line) => !fate || line.fate === fate));
	const moves = $derived(preview ? (preview.counts.added ?? 0) + (preview.counts.changed ?? 0) : 0);

	async function look(files: File[]) {
		if (!files.length) return;
		busy = 'Reading …';
		problem = '';
		preview = null;
		try {
			preview = await upload(`/api/${kind}/imports` as const, files);
			fate = '';
		} catch (error) {
			problem = said(error);
		}
		busy = '';
		input.value = '';
	}

	async function apply() {
		if (!preview) return;
		busy = 'Applying …';
		problem = '';
		try {
			const path = { path: { import_id: preview.id } };
			preview = await body(
				kind === 'people'
					? api.POST('/api/people/imports/{import_id}/apply', { params: path })
					: api.POST('/api/bank/imports/{import_id}/apply', { params: path })
			);
			onapplied();
		} catch (error) {
			problem = said(error);
			preview = null;
		}
		busy = '';
	}
</script>

<section class="sheet p-4" aria-label="Import">
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
			<input bind:this={input} class="sr-only" type="file" multiple {accept} onchange={() => look([...(input.files ?? [])])} />
		</label>
		<span class="small min-w-0 flex-1">
			{hint}
			{#if sample.length}
				Nothing at hand? Take a made-up one:
				{#each sample as s, at (s.href)}{at ? ', ' : ' '}<a class="word" href={s.href} download>{s.text}</a>{/each}.
			{/if}
		</span>
		<span class="small" role="status">{busy}</span>
	</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if preview}
		<div class="mt-3 flex flex-wrap items-center gap-x-5 gap-y-2 border-t border-hair pt-3">
			<h2 class="mr-2">{preview.applied ? 'Done.' : moves ? 'This is what the file would do.' : 'Nothing to do: all of it is here already.'}</h2>
			{#each FATES as [name, words] (name)}
				{@const n = preview.counts[name] ?? 0}
				<button class="text-[14px]" class:word={n > 0 && name !== 'same'} disabled={n === 0 || name === 'same'} aria-pressed={fate === name} onclick={() => (fate = fate === name ? '' : name)}>
					<b class="text-[17px]">{n}</b> {preview.applied ? words.replace('to add', 'added').replace('to change', 'changed') : words}
				</button>
			{/each}
			<span class="flex-1"></span>
			{#if !preview.applied}
				<button class="btn" onclick={() => (preview = null)}>Leave it</button>
				{#if moves}<button class="btn primary" disabled={!!busy} onclick={apply}>Apply all {moves}</button>{/if}
			{:else}
				<button class="btn" onclick={() => (preview = null)}>Close</button>
			{/if}
		</div>
		{#if lines.length}
			<div {@attach scrollable} class="frozen mt-2 max-h-72 border-t border-hair">
				<table>
					<thead><tr><th>What becomes of it</th><th>What</th><th>Name</th><th>Id</th><th>Why, or what changes</th></tr></thead>
					<tbody>
						{#each lines.slice(0, SHOWN) as line, at (at)}
							<tr>
								<td>{line.fate === 'left_out' ? 'left out' : line.fate}</td>
								<td>{line.what}</td>
								<td class="max-w-[320px] truncate">{line.label}</td>
								<td><code>{line.id}</code></td>
								<td>{line.detail}</td>
							</tr>
						{/each}
					</tbody>
				</table>
				{#if lines.length > SHOWN}<p class="small p-2">and {lines.length - SHOWN} more of the same kind</p>{/if}
			</div>
		{/if}
	{/if}
</section>
