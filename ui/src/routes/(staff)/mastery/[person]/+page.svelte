<script lang="ts">
	import { goto } from '$app/navigation';
	import Button from '$lib/design/Button.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** A student's standards in a subject: intervals against the line, weakest first, beside the class. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	let order = $state<'weakest' | 'framework'>('weakest');
	const lines = $derived(
		order === 'weakest'
			? (page?.standards ?? [])
			: [...(page?.standards ?? [])].sort((a, b) => a.code.localeCompare(b.code, 'en', { numeric: true }))
	);
	const to = (person: string) => `/mastery/${person}?subject=${encodeURIComponent(page?.subject ?? '')}`;
	const WIDE = 170;

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
		<Button href="/people/{page.person}">Student’s page</Button>
		{#if page.before}<Button href={to(page.before)}>Previous</Button>{/if}
		{#if page.next}<Button href={to(page.next)}>Next student</Button>{/if}
	</div>
	<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_280px]">
		<Panel label="Standards" class="px-4 py-3">
			<div class="mb-1 flex flex-wrap items-center gap-3">
				<h2 class="text-[15px]">Standards</h2>
				<span class="small flex-1">bar: 90% interval of the share; dashes: the line, {percent(page.line)}</span>
				<ToggleGroup
					label="Order"
					bind:value={order}
					choices={[
						{ value: 'weakest', label: 'Weakest first' },
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
								><b class="font-semibold">{s.code}</b> {s.text}<span class="small block">{s.says}</span></td
							>
							<td class="whitespace-nowrap">{s.state}</td>
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
									<path d="M{page.line * WIDE} 0V22" stroke="var(--color-ink)" stroke-dasharray="3 2" />
								</svg>
							</td>
							<td
								>{s.side}{s.relative ? ', and not in the class' : ''}{s.way > 0
									? '; rising'
									: s.way < 0
										? '; falling'
										: ''}{s.again ? '; check again' : ''}</td
							>
							<td class="n">{s.class_share === null ? '–' : `${percent(s.class_share)} of ${s.class_n}`}</td>
						</tr>
					{/each}
				</tbody>
			</Table>
		</Panel>
		<Panel label="By domain" class="px-4 py-3">
			<h2 class="text-[15px]">By domain</h2>
			<ul class="mt-1 text-[14px]">
				{#each page.domains as d (`${d.domain} ${d.grade}`)}<li class="border-b border-hair py-1.5 last:border-0">
						Mastered <b>{d.mastered}</b> of {d.assessed} grade {d.grade} standards
						<span class="small block">{d.domain}{d.open ? `; ${d.open} not assessed` : ''}</span>
					</li>{/each}
			</ul>
			<p class="small mt-2">This is no grade equivalent: it counts standards and nothing else.</p>
		</Panel>
	</div>
{/if}
