<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import { decimal, percent, short, whole } from '$lib/words/show';

	/** What a correction would move in one test and window: students, figures, flags, classes. */
	let { moved }: { moved: Schemas['AdministrationMove'] } = $props();
	const still = $derived(moved.n - moved.up - moved.down);
	const PARTS = $derived(
		[
			{ n: moved.down, words: 'less', tint: 'var(--color-relief1)' },
			{ n: still, words: 'the same', tint: 'var(--color-white)' },
			{ n: moved.up, words: 'more', tint: 'var(--color-relief4)' }
		].filter((part) => part.n)
	);
	const of = (value: number | null | undefined, points: number | null | undefined) =>
		value === null || value === undefined ? '' : `${decimal(value)} of ${points}`;
	const ROWS = $derived<[string, string, string][]>([
		['Mean', of(moved.mean[0], moved.points[0]), of(moved.mean[1], moved.points[1])],
		['Reliability (α)', short(moved.alpha[0] ?? null, 3), short(moved.alpha[1] ?? null, 3)]
	]);
	const touched = $derived(moved.classes.filter((c) => c.moved));
</script>

<Panel label="What would move in {moved.form}, {moved.window}" class="mt-3 px-5 py-4">
	<h2 class="text-[15px]">{moved.form} <span class="small ml-2">{moved.window}, {whole(moved.n)} students</span></h2>
	{#if moved.n}
		<div
			class="mt-2 flex h-[26px] border border-ink2"
			role="img"
			aria-label={PARTS.map((part) => `${part.n} would have ${part.words}`).join(', ')}
		>
			{#each PARTS as part (part.words)}<i style:width="{(100 * part.n) / moved.n}%" style:background={part.tint}
				></i>{/each}
		</div>
		<p class="small mt-1">
			{PARTS.map((part) => `${whole(part.n)} ${part.words}`).join(', ')}{moved.most
				? `; at most ${moved.by_share ? percent(moved.most) : `${decimal(moved.most, 1)} points`}`
				: ''}.
			{#if moved.over}{whole(moved.over)} rise over the {percent(moved.line)} line.{/if}
			{#if moved.level_up}{whole(moved.level_up)} reach a higher level.{/if}
			{#if moved.level_down}{whole(moved.level_down)} fall to a lower level.{/if}
			{#if moved.under}{whole(moved.under)} fall under the {percent(moved.line)} line.{/if}
			{#if moved.released}<b>{whole(moved.released)} have been told their results.</b>{/if}
		</p>
	{/if}
	<div class="mt-3 grid gap-6 md:grid-cols-2">
		<div>
			<Table>
				<thead><tr><th class="pl-0"></th><th class="n">now</th><th class="n pr-0">then</th></tr></thead>
				<tbody
					>{#each ROWS as [name, before, after] (name)}<tr
							><td class="h-6 pl-0 text-ink2">{name}</td><td class="n h-6">{before}</td><td
								class="n h-6 pr-0 font-semibold">{after}</td
							></tr
						>{/each}</tbody
				>
			</Table>
			{#if moved.flags.length}<ul class="mt-2 text-[13.5px]">
					{#each moved.flags as flag (`${flag.number} ${flag.flag}`)}<li>
							Item {flag.number}: {flag.flag}{flag.gone ? ' no longer flagged' : ', flagged then'}
						</li>{/each}
				</ul>{/if}
			{#if moved.becomes !== moved.finding}<p class="mt-2 text-[13.5px]">
					<span class="small block">The test would say</span>{moved.becomes}
				</p>{/if}
		</div>
		{#if touched.length}<div>
				<Table>
					<thead
						><tr><th class="pl-0">Class</th><th class="n">Students moved</th><th class="pr-0">Results</th></tr></thead
					>
					<tbody
						>{#each touched.slice(0, 12) as klass (klass.session_id)}<tr
								><td class="h-8 pl-0"><a class="word" href="/sessions/{klass.session_id}">{klass.klass}</a></td><td
									class="n h-6">{klass.moved} of {klass.of}</td
								><td class="h-6 pr-0">{klass.released ? 'told' : 'not told yet'}</td></tr
							>{/each}</tbody
					>
				</Table>
				{#if touched.length > 12}<p class="small">and {touched.length - 12} more classes</p>{/if}
			</div>{/if}
	</div>
</Panel>
