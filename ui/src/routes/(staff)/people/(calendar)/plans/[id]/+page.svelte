<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import Notice from '$lib/parts/Notice.svelte';
	import { day, shortDay } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="small mb-1"><a class="word" href="/people/plans">Pacing guides</a> · {shown.data.plan.year}</div>
	<Finding of="Pacing guide" title={shown.data?.plan.course} class="mb-3">{shown.data.finding}</Finding>
	<Panel label="Lessons by class">
		<div {@attach scrollable} class="frozen max-h-[calc(100vh-230px)]">
			<table class="plan">
				<thead>
					<tr>
						<th>Lesson</th><th>Planned</th><th>Standards</th>
						{#each shown.data.classes as c (c.id)}
							<th class="text-center" title={c.title}
								>{shown.short(c.title)}<br /><span class={c.ahead < -2 ? 'notch' : ''}
									>{c.done}{c.ahead < 0 ? ` (−${-c.ahead})` : c.ahead > 0 ? ` (+${c.ahead})` : ''}</span
								></th
							>
						{/each}
					</tr>
				</thead>
				<tbody>
					{#each shown.data.lessons as l, at (l.id)}
						{#if l.unit && l.unit !== shown.data.lessons[at - 1]?.unit}<tr
								><th colspan={3 + shown.data.classes.length} class="bg-paper font-semibold text-ink" scope="colgroup"
									>{l.unit}</th
								></tr
							>{/if}
						<tr class:today={shown.due(l) && !shown.due(shown.data.lessons[at + 1] ?? { ...l, end: '9999' })}>
							<td class="max-w-[280px] truncate" title={l.title}>{l.title}</td>
							<td class="whitespace-nowrap">{shortDay(l.start)} to {shortDay(l.end)}</td>
							<td
								>{#each l.standards as code (code)}<StandardCode {code} />{' '}{/each}</td
							>
							{#each shown.data.classes as c (c.id)}
								{@const on = c.taught[l.id]}
								<td class="p-0 text-center">
									{#if c.may_say}
										<button
											class="size-7 cursor-pointer"
											aria-pressed={!!on}
											disabled={shown.busy !== '' || (!on && l.start > shown.data.today)}
											title={on ? `taught by ${day(on)}; click to mark as not taught` : 'click to mark as taught'}
											aria-label="{l.title}, {c.title}: {on ? `taught by ${day(on)}` : 'not taught'}"
											onclick={() => shown.say(c, l)}
										>
											<span
												class="mx-auto block size-4 rounded-[2px] {on
													? 'bg-relief2'
													: c.skipped.includes(l.id)
														? 'border-2 border-vermilion'
														: shown.due(l)
															? 'border border-ink2'
															: 'border border-hair'}"
											></span>
										</button>
									{:else}<span
											class="mx-auto block size-4 rounded-[2px] {on
												? 'bg-relief2'
												: c.skipped.includes(l.id)
													? 'border-2 border-vermilion'
													: shown.due(l)
														? 'border border-ink2'
														: 'border border-hair'}"
											role="img"
											aria-label={on ? `taught by ${day(on)}` : 'not taught'}
										></span>{/if}
								</td>
							{/each}
						</tr>
					{/each}
				</tbody>
			</table>
		</div>
		<p class="small border-t border-hair p-2">
			Filled: taught. Dark frame: due, not taught. Red frame: skipped while later lessons were taught. The line is
			today; the number is lessons taught, and how far that is from the plan.
		</p>
	</Panel>
{/if}

<style>
	.today td {
		border-bottom: 2px solid var(--color-vermilion);
	}
	.plan th {
		line-height: 1.2;
	}
</style>
