<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Student from '$lib/parts/Student.svelte';
	import { api, body } from '$lib/api/client';
	import MakeGroup from '$lib/parts/MakeGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { aliases } from '$lib/state/aliases';
	const alias = aliases();
	import { percent } from '$lib/words/show';
	import FigureText from '../FigureText.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';

	/** The same mistake in several items, who holds it, and which students hold the same ones. */
	const asked = new Asked(() => body(api.GET('/api/quality/mistakes', { params: { query: address.scope } })));
	const data = $derived(asked.data);
	let open = $state<string | null>(null);
	const most = $derived(Math.max(0.01, ...(data?.mistakes.flatMap((m) => m.carriers.map((c) => c.share)) ?? [])));
	const several = $derived((data?.mistakes ?? []).filter((m) => m.carriers.filter((c) => c.n).length > 1));
	const single = $derived((data?.mistakes ?? []).filter((m) => m.carriers.filter((c) => c.n).length <= 1));
	const first = $derived(open ?? several.find((m) => m.held)?.note ?? null);
</script>

<Notice text={asked.problem} />
{#if data}
	<Finding of="Shared errors" station="Item quality" class="mb-3 max-w-[900px]">{data.finding}</Finding>
	<div class="grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
		<div class="min-w-0 space-y-3">
			{#each several as m (m.note)}
				<Panel label={m.note} class="p-4 text-[13.5px]">
					<div class="flex items-baseline gap-3">
						<h2 class="flex-1">{m.note[0]?.toUpperCase()}{m.note.slice(1)}</h2>
						<span class="small"
							>{m.held ? `shown by ${m.held}` : 'shown by no one'}; {m.n} students, {m.answers} times</span
						>
					</div>
					{#if m.link}<p class="small">{m.link}</p>{/if}
					<div class="mt-2 grid grid-cols-[repeat(auto-fill,minmax(215px,1fr))] gap-x-5 gap-y-1">
						{#each m.carriers.filter((c) => c.n) as c (c.item + c.answer)}
							<a
								class="flex min-h-[24px] items-center gap-1.5"
								href={address.href('/quality/look/item', { item: c.item, who: c.answer })}
								><span class="word w-[86px] truncate">item {c.number}, {c.answer}</span><svg
									width="84"
									height="12"
									aria-hidden="true"
									><rect y="2" width={(c.share / most) * 80} height="8" fill="var(--color-relief2)" /></svg
								><span class="n">{percent(c.share)}</span></a
							>
						{/each}
					</div>
					{#if m.held}
						<details class="mt-2" open={first === m.note} ontoggle={(e) => e.currentTarget.open && (open = m.note)}>
							<summary class="min-h-[24px] cursor-pointer">Students</summary>
							{#if m.who.length}
								<p class="text-ink2">
									{#each m.who as w, at (w.person)}{at ? ', ' : ''}<span class="whitespace-nowrap"
											><Student person={w.person} name={w.name} alias={alias(w.person)} /> ({w.klass.replace(
												/^.* /,
												''
											)}, {w.gave} of {w.could})</span
										>{/each}
								</p>
								<div class="mt-1"><MakeGroup people={m.who.map((w) => w.person)} name={m.note} /></div>
							{:else}<p class="small">You may not see their names.</p>{/if}
						</details>
					{/if}
				</Panel>
			{/each}
			{#if single.length}
				<Panel label="Made in one item" class="p-4 text-[13px]">
					<h2 class="mb-1">Made in one item only</h2>
					{#each single as m (m.note)}<div
							class="flex min-h-[26px] items-center gap-2 border-b border-hair2 last:border-b-0"
						>
							<span class="min-w-0 flex-1 truncate">{m.note}</span
							>{#each m.carriers.filter((c) => c.n) as c (c.item + c.answer)}<a
									class="word min-h-[24px]"
									href={address.href('/quality/look/item', { item: c.item, who: c.answer })}
									>item {c.number}, {c.answer}</a
								><span class="n w-10">{percent(c.share)}</span>{/each}
						</div>{/each}
				</Panel>
			{/if}
			{#if !data.mistakes.length && data.noted}<p class="sheet p-4 text-ink2">
					No one gave an answer that has a misconception note.
				</p>{/if}
		</div>
		<aside class="space-y-3">
			{#if data.alike.length}
				<Panel label="Alike" class="p-4 text-[13.5px]">
					<h2 class="mb-1">Students with the same errors</h2>
					{#each data.alike.slice(0, 12) as g (g.notes.join('|'))}
						<div class="border-b border-hair2 py-2 last:border-b-0">
							<p><b class="font-semibold">{g.n} students</b>: {g.notes.join('; ')}</p>
							{#if g.who.length}<p class="text-ink2">
									{#each g.who as w, n (w.person)}{n ? ', ' : ''}<Student
											person={w.person}
											name={w.name}
											alias={alias(w.person)}
										/>{/each}
								</p>
								<MakeGroup people={g.who.map((w) => w.person)} name={g.notes.join(', ')} />{/if}
						</div>
					{/each}
				</Panel>
			{/if}
			<Panel label="How this was calculated" class="p-4 text-[13.5px]">
				<FigureText
					figure="mistakes"
					result="{several.length} in several items"
					numbers={[
						['items with notes', `${data.noted} of ${data.of}`],
						['made in one item only', String(single.length)]
					]}
				/>
			</Panel>
		</aside>
	</div>
{:else if asked.busy}<p class="small" role="status">Looking …</p>{/if}
