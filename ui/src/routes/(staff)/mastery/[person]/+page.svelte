<script lang="ts">
	import { goto } from '$app/navigation';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import Work from './Work.svelte';
	import type { PageProps } from './$types';

	/** A student's standards in a subject: intervals against the line, weakest first, beside the class. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	let order = $state<'weakest' | 'strongest' | 'framework'>('weakest');
	const lines = $derived(
		order === 'weakest'
			? (page?.standards ?? [])
			: order === 'strongest'
				? [...(page?.standards ?? [])].reverse()
				: [...(page?.standards ?? [])].sort((a, b) => a.place - b.place)
	);
	const to = (person: string) => `/mastery/${person}?subject=${encodeURIComponent(page?.subject ?? '')}`;
	const WIDE = 170;

	function between(change: { first?: string; last?: string }) {
		const query = new URLSearchParams({
			subject: page?.subject ?? '',
			first: page?.first ?? '',
			last: page?.last ?? '',
			...change
		});
		void goto(`/mastery/${page?.person}?${query}`, { noScroll: true, keepFocus: true });
	}
	const print = $derived(
		`/api/mastery/classes/${page?.class_id}/students.pdf?person=${page?.person}${staff.veiled ? '&names=false' : ''}`
	);
	const CHANGES = ['gained', 'confirmed again', 'lapsed', 'in progress'];

	/** N and P go to the next and the previous student. */
	function key(event: KeyboardEvent) {
		if (!page || !staff.letterKeys || event.ctrlKey || event.metaKey || event.altKey) return;
		if (event.target instanceof HTMLElement && event.target.closest('input, textarea, [role=combobox]')) return;
		if (event.key === 'n' && page.next) void goto(to(page.next));
		if (event.key === 'p' && page.before) void goto(to(page.before));
	}
</script>

<svelte:window onkeydown={key} />
<div class="small mb-1"><a class="word" href="/mastery">Mastery</a></div>
<Notice text={data.problem} />
{#if page}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding
			of={staff.name(page.name, 0)}
			station="Mastery"
			beside="{page.subject}, {page.klass}"
			class="max-w-[860px] flex-1"
			live>{page.finding}</Finding
		>
		<Button class="ml-auto" href={print} download>Print</Button>
		<Button href="/people/{page.person}">Student’s page</Button>
		{#if page.before}<Button href={to(page.before)}>Previous</Button>{/if}
		{#if page.next}<Button href={to(page.next)}>Next student</Button>{/if}
	</div>
	<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_330px]">
		<Panel label="Standards" class="px-4 py-3">
			<div class="mb-1 flex flex-wrap items-center gap-3">
				<h2 class="text-[15px]">Standards</h2>
				<span class="small flex-1">bar: 90% interval of the share; dashes: the line, {percent(page.line)}</span>
				<ToggleGroup
					label="Order"
					bind:value={order}
					choices={[
						{ value: 'weakest', label: 'Weakest first' },
						{ value: 'strongest', label: 'Strongest first' },
						{ value: 'framework', label: 'In order' }
					]}
				/>
			</div>
			<Table>
				<thead
					><tr><th>Standard</th><th>State</th><th>Share</th><th>Against the line</th><th class="n">Class</th></tr
					></thead
				>
				<tbody>
					{#each lines as s (s.standard)}
						<tr>
							<td class="max-w-[340px]"
								><b class="font-semibold">{s.code}</b>
								{s.text}<span class="small block">{s.says}</span></td
							>
							<td
								>{s.state}{#if s.change}<span class="small block">{s.change}</span>{/if}</td
							>
							<td>
								<svg width={WIDE} height="22" role="img" aria-label="{percent(s.low)} to {percent(s.high)}">
									<path d="M0 11H{WIDE}" stroke="var(--color-hair)" />
									<rect
										x={s.low * WIDE}
										y="6"
										width={Math.max(2, (s.high - s.low) * WIDE)}
										height="10"
										rx="2"
										fill={s.side === 'clearly below'
											? 'var(--color-relief2)'
											: s.side === 'clearly above'
												? 'var(--color-relief5)'
												: 'var(--color-relief3)'}
										opacity={s.side === 'too thin' ? 0.4 : 1}
									/>
									<circle cx={s.mean * WIDE} cy="11" r="3.4" fill="var(--color-white)" stroke="var(--color-ink)" />
									<path d="M{s.line * WIDE} 0V22" stroke="var(--color-ink)" stroke-dasharray="3 2" />
								</svg>
							</td>
							<td
								>{s.side}{s.relative ? ', and not in the class' : ''}{s.way > 0
									? '; rising'
									: s.way < 0
										? '; falling'
										: ''}{s.again ? '; check again' : ''}{s.taught ? '' : '; not taught yet'}</td
							>
							<td class="n whitespace-nowrap"
								>{s.class_share === null ? '–' : `${percent(s.class_share)} of ${s.class_n}`}</td
							>
						</tr>
					{/each}
				</tbody>
			</Table>
		</Panel>
		<div class="grid content-start gap-3">
			<Panel label="By domain" class="px-4 py-3">
				<h2 class="text-[15px]">By domain</h2>
				<ul class="mt-1 text-[14px]">
					{#each page.domains as d (`${d.domain} ${d.grade}`)}<li class="border-b border-hair py-1.5 last:border-0">
							{d.says}<span class="small block">{d.domain}</span>
						</li>{/each}
				</ul>
				<p class="small mt-2">This is no grade equivalent: it counts standards and nothing else.</p>
			</Panel>
			<Panel label="What changed" class="px-4 py-3">
				<h2 class="mb-1 text-[15px]">What changed</h2>
				<div class="flex flex-wrap items-end gap-2">
					<DateField label="From" value={page.first} onchange={(first) => first && between({ first })} />
					<DateField label="to" value={page.last} onchange={(last) => last && between({ last })} />
				</div>
				<ul class="mt-2 text-[14px]">
					{#each CHANGES as word (word)}{@const some = page.standards.filter(
							(s) => s.change === word
						)}{#if some.length}<li class="border-b border-hair py-1 last:border-0">
								<b>{page.changes[word]}</b>
								{word}<span class="small block">{some.map((s) => s.code).join(', ')}</span>
							</li>{/if}{/each}
				</ul>
				{#if !Object.keys(page.changes).length}<p class="small">No evidence in these days.</p>{/if}
			</Panel>
			{#if page.work.length}<Panel label="Work" class="px-4 py-3">
					<h2 class="text-[15px]">Work in these days</h2>
					<Work work={page.work} />
				</Panel>{/if}
		</div>
	</div>
{/if}
