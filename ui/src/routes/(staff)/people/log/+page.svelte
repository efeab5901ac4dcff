<script lang="ts">
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** What was changed, by whom, when and why. */
	let lines = $state<Schemas['LogLine'][]>([]);
	let total = $state(0);
	let problem = $state('');
	let asked = 0;
	const zone = $derived(staff.calendar?.zone ?? 'UTC');

	async function load(before?: string) {
		const mine = ++asked;
		try {
			const find = page.url.searchParams.get('find') ?? '';
			const answer = await body(api.GET('/api/people/log', { params: { query: { find, before } } }));
			if (mine !== asked) return;
			lines = before ? [...lines, ...answer.lines] : answer.lines;
			total = answer.total;
		} catch (error) {
			problem = said(error);
		}
	}
	onMount(() => void load());

	async function typed(event: Event) {
		const url = new URL(page.url);
		url.searchParams.set('find', (event.target as HTMLInputElement).value);
		await goto(url, { replaceState: true, keepFocus: true, noScroll: true });
		await load();
	}
</script>

<svelte:head><title>Log · Bildung</title></svelte:head>

<h1 class="mb-3">
	{total === 0
		? 'Nothing was changed that fits.'
		: `${total} ${total === 1 ? 'change' : 'changes'}${page.url.searchParams.get('find') ? ' that fit' : ', the newest first'}.`}
</h1>
<Notice text={problem} />
<section class="sheet">
	<div class="border-b border-hair p-2">
		<input
			class="input !mt-0"
			data-find
			type="search"
			placeholder="Find by person, action, subject or reason"
			aria-label="Find in the log"
			value={page.url.searchParams.get('find') ?? ''}
			oninput={typed}
		/>
	</div>
	<div {@attach scrollable} class="frozen max-h-[calc(100vh-230px)]">
		<table>
			<thead
				><tr><th>When</th><th>Who</th><th>What</th><th>Subject</th><th>Before</th><th>After</th><th>Why</th></tr></thead
			>
			<tbody>
				{#each lines as line (line.id)}
					<tr>
						<td class="whitespace-nowrap">{dateTime(line.at, zone)}</td>
						<td class="whitespace-nowrap">{line.who}</td>
						<td>{line.action}</td>
						<td><code>{line.subject}</code></td>
						<td class="max-w-[200px] truncate" title={line.before}>{line.before}</td>
						<td class="max-w-[280px] truncate" title={line.after}>{line.after}</td>
						<td>{line.why}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</div>
	{#if lines.length < total}<div class="border-t border-hair p-2">
			<button class="btn" onclick={() => load(lines.at(-1)?.id)}>Older ones ({total - lines.length})</button>
		</div>{/if}
</section>
