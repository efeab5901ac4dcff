<script lang="ts">
	import type { Schemas } from '$lib/api/client';

	/** Standards by subject and grade, each with how many items it has as a bar. */
	let {
		standards,
		chosen,
		onchoose
	}: { standards: Schemas['StandardLine'][]; chosen: string; onchoose: (code: string) => void } = $props();

	const most = $derived(Math.max(1, ...standards.map((s) => s.items)));
	const groups = $derived.by(() => {
		const map = new Map<string, Schemas['StandardLine'][]>();
		for (const s of standards) {
			const name = s.subject ? `${s.subject}, grade ${s.grade}` : 'Codes without a text';
			map.set(name, [...(map.get(name) ?? []), s]);
		}
		return [...map];
	});
</script>

<button
	class="block w-full border-b border-hair2 px-3 py-1.5 text-left text-[13px]"
	class:font-bold={!chosen}
	aria-pressed={!chosen}
	onclick={() => onchoose('')}>All standards</button
>
{#each groups as [name, list] (name)}
	<div class="small px-3 pt-2.5 pb-1">{name}</div>
	{#each list as s (s.code)}
		<button
			class="grid w-full cursor-pointer grid-cols-[1fr_54px] items-center gap-2 border-l-[3px] px-2.5 py-1 text-left text-[12.5px] leading-tight hover:bg-wash {s.code ===
			chosen
				? 'border-petrol bg-wash'
				: 'border-transparent'}"
			aria-pressed={s.code === chosen}
			title={s.text}
			onclick={() => onchoose(s.code === chosen ? '' : s.code)}
		>
			<span class="min-w-0"
				><code>{s.code}</code><span class="block truncate text-ink2">{s.text || 'no text yet'}</span></span
			>
			<span class="flex items-center gap-1.5"
				><span class="h-2.5 bg-relief3" style:width="{(s.items / most) * 28}px"></span>{s.items}</span
			>
		</button>
	{/each}
{/each}
