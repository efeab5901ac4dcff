<script lang="ts">
	import { page } from '$app/state';
	import type { Schemas } from '$lib/api/client';
	import { view } from './view.svelte';

	/** What is looked at, as words and controls: form, window, which classes, the watch line. */
	let { data }: { data: Schemas['QualityOut'] } = $props();
	let open = $state(false);
	const all = $derived(data.chosen.length === data.sessions.length);
	const words = $derived(
		all ? (data.sessions.length === 1 ? (data.sessions[0]?.klass ?? '') : `all ${data.sessions.length} classes`)
			: data.sessions.filter((s) => data.chosen.includes(s.id)).map((s) => s.klass).join(', ')
	);

	function toggle(id: string) {
		const chosen = data.chosen.includes(id) ? data.chosen.filter((c) => c !== id) : [...data.chosen, id];
		void view.set({ sessions: chosen.length === data.sessions.length ? null : chosen.length ? chosen : null });
	}
</script>

<div class="small mb-1 flex flex-wrap items-center gap-x-2">
	<a class="word" href="/quality">Item quality</a> · {data.window} · {data.form} ·
	<button class="word" aria-expanded={open} onclick={() => (open = !open)}>{words}</button>
	{#if !all}<button class="word" onclick={() => view.set({ sessions: null })}>show all {data.sessions.length}</button>{/if}
	<button class="word" aria-pressed={!!page.url.searchParams.get('groups')} onclick={() => view.set({ groups: page.url.searchParams.get('groups') ? null : 'on' })}>compare groups</button>
	<label class="ml-auto flex items-center gap-1.5">watch line
		<input class="w-[58px] rounded border border-[#8d9b98] bg-sheet px-1.5 py-0.5 text-right text-ink" type="number" min="0" max="100" step="5" value={Math.round(data.watch_line * 100)} onchange={(e) => view.set({ line: e.currentTarget.value === '60' ? null : e.currentTarget.value })} /> %
	</label>
</div>
{#if open}
	<div class="sheet mb-2 flex flex-wrap gap-x-4 gap-y-1 p-2.5 text-[13px]">
		{#each data.sessions as s (s.id)}
			<label class="flex min-h-[27px] cursor-pointer items-center gap-1.5"><input type="checkbox" checked={data.chosen.includes(s.id)} onchange={() => toggle(s.id)} />{s.klass}</label>
		{/each}
	</div>
{/if}
