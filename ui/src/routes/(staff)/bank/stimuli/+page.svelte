<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { goto } from '$app/navigation';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<div class="small mb-1"><a class="word" href="/bank">Bank</a></div>
<div class="mb-3 flex items-start gap-3">
	<Finding of="Stimuli" class="flex-1">{shown.found?.finding ?? ''}</Finding>
	{#if staff.may('bank.write')}<Button kind="primary" href="/bank/stimuli/new">New stimulus</Button>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
<Panel>
	<div class="flex gap-2 border-b border-hair p-2">
		<input
			class="input mt-0 flex-1"
			type="search"
			data-find
			placeholder="Find in code, title and text"
			aria-label="Find in code, title and text"
			bind:value={shown.find}
			oninput={shown.search}
		/>
		<Select
			label="Kind"
			choices={[
				{ value: '', label: 'all kinds' },
				...shown.KINDS.map(([value, word]) => ({ value: value, label: word }))
			]}
			bind:value={shown.kind}
			onchange={shown.search}
			class="mt-0 w-[160px]"
		/>
	</div>
	<Table within="max-h-[calc(100vh-220px)]">
		<thead
			><tr
				><th>Code</th><th>Title</th><th>Kind</th><th>Subject</th><th>Grade</th><th class="n">Words</th><th
					class="w-[220px]">Items</th
				></tr
			></thead
		>
		<tbody>
			{#each shown.found?.stimuli ?? [] as s (s.id)}
				<tr tabindex="-1" data-row onclick={() => goto(`/bank/stimuli/${s.id}`)}>
					<td><code>{s.code}</code></td><td
						><a class="word" href="/bank/stimuli/{s.id}">{s.title}</a>{s.own ? ' (own)' : ''}</td
					><td>{shown.KINDS.find(([k]) => k === s.kind)?.[1].replace(/s$/, '') ?? s.kind}</td><td>{s.subject}</td><td
						>{s.grade}</td
					><td class="n">{s.words || ''}</td>
					<td
						><span class="flex items-center gap-2"
							><span class="inline-block h-2.5 rounded-sm bg-relief3" style:width="{(s.items / shown.most) * 120}px"
							></span>{s.items || 'none yet'}</span
						></td
					>
				</tr>
			{:else}<tr><td colspan="7" class="py-5 text-ink2">{shown.found ? 'Nothing fits.' : ''}</td></tr>{/each}
		</tbody>
	</Table>
</Panel>
