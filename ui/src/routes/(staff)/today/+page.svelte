<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import { onMount } from 'svelte';
	import { invalidate } from '$app/navigation';
	import Notice from '$lib/parts/Notice.svelte';
	import SittingBar from '$lib/parts/SittingBar.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { time } from '$lib/words/show';
	import Cover from './Cover.svelte';
	import type { PageProps } from './$types';

	/** Where staff land: what is open, what comes next, and what waits for them. */
	let { data }: PageProps = $props();
	const today = $derived(data.found);
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	let covering = $state(false);
	let out = $state('');
	let outOn = $state('');
	const EVERY = 30_000; // milliseconds between two looks at what is open

	onMount(() => {
		const look = setInterval(() => document.hidden || void invalidate('bildung:today'), EVERY);
		return () => clearInterval(look);
	});
</script>

<Notice text={data.problem} />
{#if today}
	<Finding of="Today" beside={today.day} class="mb-4 max-w-[860px]">{today.finding}</Finding>
	{#if data.steps}
		<p class="sheet mb-3 flex items-center gap-4 border-l-4 border-l-petrol px-4 py-3 text-[14px]">
			<span class="flex-1">{data.steps.finding}</span><Button href="/start">Continue setup</Button>
		</p>
	{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_320px] items-start gap-4">
		<div class="flex flex-col gap-4">
			{#if today.open.length}
				<section aria-labelledby="open-now">
					<h2 id="open-now" class="mb-2">Open now</h2>
					<div class="flex flex-col gap-2">
						{#each today.open as { session: s, minutes_left } (s.id)}
							<a
								class="sheet flex min-h-[60px] items-center gap-5 border-l-4 border-l-petrol px-4 py-2.5 hover:bg-wash"
								href="/sessions/{s.id}?window={s.window_id}"
								data-row
							>
								<span class="min-w-0 flex-1">
									<b class="block truncate text-[15px]">{s.klass}</b>
									<span class="small block truncate"
										>{s.form}{s.room ? ` · ${s.room}` : ''}{s.proctor ? ` · ${s.proctor}` : ' · no proctor'}</span
									>
								</span>
								<SittingBar counts={s.counts} width={150} />
								<span class="w-[96px] text-right text-[13px]"
									>{minutes_left ? `${minutes_left} minutes left` : 'time is up'}<span class="small block"
										>ends {time(s.end, zone)}</span
									></span
								>
							</a>
						{/each}
					</div>
				</section>
			{/if}
			{#each today.next as ahead (ahead.name)}
				<section aria-label={ahead.name}>
					<h2 class="mb-2">{ahead.name}</h2>
					<div class="sheet">
						<Table>
							<thead
								><tr
									><th class="w-[110px]">Time</th><th>Class</th><th>Form</th><th>Room</th><th>Proctor</th><th class="n"
										>Students</th
									></tr
								></thead
							>
							<tbody>
								{#each ahead.sessions as { session: s, students } (s.id)}
									<tr>
										<td class="whitespace-nowrap">{time(s.start, zone)}</td>
										<td><a class="word" data-row href="/sessions/{s.id}?window={s.window_id}">{s.klass}</a></td>
										<td>{s.form}</td>
										<td>{s.room}</td>
										<td
											>{#if s.proctor && s.may_plan && s.proctor_id && staff.may('people.settle')}<button
													class="word min-h-[24px]"
													title="Reassign this proctor's sessions of the day"
													onclick={() => ((out = s.proctor_id ?? ''), (outOn = s.start), (covering = true))}
													>{s.proctor}</button
												>{:else if s.proctor}{s.proctor}{:else}<span class="notch">none</span>{/if}</td
										>
										<td class="n">{students}</td>
									</tr>
								{/each}
							</tbody>
						</Table>
					</div>
				</section>
			{/each}
			{#if !today.open.length && !today.next.length}
				<div class="sheet p-6 text-ink2">
					Sessions appear here as soon as they are scheduled: the ones that are open first, then the next two weeks.
					{#if today.plans}<a class="word" href="/sessions?plan=new">Schedule sessions</a>.{/if}
				</div>
			{/if}
		</div>
		<div class="flex flex-col gap-4">
			<section class="sheet" aria-labelledby="waiting">
				<h2 id="waiting" class="border-b border-hair px-4 py-2.5">Needs your attention</h2>
				{#each today.waiting as w (w.what)}
					<a
						class="flex min-h-10 items-center gap-3 border-b border-hair2 px-4 py-2 text-[14px] last:border-b-0 hover:bg-wash"
						href={w.path}
						data-row><span class="flex-1 {w.urgent ? 'notch' : ''}">{w.what}</span><span aria-hidden="true">›</span></a
					>
				{:else}<p class="small px-4 py-3">Nothing at the moment.</p>{/each}
			</section>
			{#if today.growth.length}
				<section class="sheet" aria-labelledby="growth">
					<h2 id="growth" class="border-b border-hair px-4 py-2.5">Growth</h2>
					{#each today.growth as g (g.path)}
						<a
							class="flex min-h-10 items-center gap-3 border-b border-hair2 px-4 py-2 text-[14px] last:border-b-0 hover:bg-wash"
							href={g.path}
							data-row><span class="flex-1">{g.what}</span><span aria-hidden="true">›</span></a
						>
					{/each}
				</section>
			{/if}
		</div>
	</div>
{/if}
<Cover bind:open={covering} person={out} on={outOn} ondone={() => void invalidate('bildung:today')} />
