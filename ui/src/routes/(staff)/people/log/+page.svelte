<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { page } from '$app/state';
	import Notice from '$lib/parts/Notice.svelte';
	import { dateTime } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Finding of="Log" class="mb-3">
	{shown.total === 0
		? 'Nothing was changed that fits.'
		: `${shown.total} ${shown.total === 1 ? 'change' : 'changes'}${page.url.searchParams.get('find') ? ' that fit' : ', the newest first'}.`}
</Finding>
<Notice text={shown.problem} />
<Panel>
	<div class="border-b border-hair p-2">
		<input
			class="input mt-0"
			data-find
			type="search"
			placeholder="Find by person, action, subject or reason"
			aria-label="Find in the log"
			value={page.url.searchParams.get('find') ?? ''}
			oninput={shown.typed}
		/>
	</div>
	<Table within="max-h-[calc(100vh-230px)]">
		<thead
			><tr><th>When</th><th>Who</th><th>What</th><th>Subject</th><th>Before</th><th>After</th><th>Why</th></tr></thead
		>
		<tbody>
			{#each shown.lines as line (line.id)}
				<tr>
					<td class="whitespace-nowrap">{dateTime(line.at, shown.zone)}</td>
					<td class="whitespace-nowrap">{line.who}</td>
					<td class="whitespace-nowrap" title={line.action}>{line.says}</td>
					<td class="whitespace-nowrap"
						>{#if line.path}<a class="word" href={line.path}>{line.subject.replace(':', ' ')}</a
							>{:else}{line.subject.replace(':', ' ')}{/if}</td
					>
					<td class="max-w-[200px] truncate" title={line.before}>{line.before}</td>
					<td class="max-w-[280px] truncate" title={line.after}>{line.after}</td>
					<td>{line.why}</td>
				</tr>
			{/each}
		</tbody>
	</Table>
	{#if shown.lines.length < shown.total}<div class="border-t border-hair p-2">
			<Button onclick={() => shown.load(shown.lines.at(-1)?.id)}>Show older ({shown.total - shown.lines.length})</Button
			>
		</div>{/if}
</Panel>
