<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Student from '$lib/parts/Student.svelte';
	import { scaleLinear } from 'd3-scale';
	import { api, body } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { aliases } from '$lib/state/aliases';
	const alias = aliases();
	import { percent, short } from '$lib/words/show';
	import FigureText from '../FigureText.svelte';
	import { address } from '../address.svelte';
	import { Asked } from '../asked.svelte';

	/** Whether there was time enough, how it ran over the items, and which answers came too fast to be meant. */
	const asked = new Asked(() => body(api.GET('/api/quality/effort', { params: { query: address.scope } })));
	const data = $derived(asked.data);
	let width = $state(760);
	const [height, ground, shore] = [252, 222, 64];
	const longest = $derived(
		Math.max(10, ...(data?.items.map((i) => i.time.quartiles?.[1] ?? i.time.median ?? 0) ?? []))
	);
	const x = $derived((at: number) => 44 + ((at + 0.5) * (width - 56)) / Math.max(1, data?.items.length ?? 1));
	const y = $derived((seconds: number) => ground - (seconds / longest) * 132);
	const moved = $derived((data?.items ?? []).filter((i) => i.time.rapid));
	/** Who is still there, from item to item: steps on a scale from nobody to everybody. */
	const there = (share: number) => shore - share * 48;
	const short_of = $derived((data?.items ?? []).filter((i) => i.time.reached !== null && i.time.reached < 1));
	const half = $derived((width - 56) / Math.max(1, data?.items.length ?? 1) / 2);
	const steps = $derived(
		(data?.items ?? [])
			.map((i, at) => `${at ? 'L' : 'M'}${x(at) - half} ${there(i.time.reached ?? 0)}H${x(at) + half}`)
			.join('')
	);
	const last = $derived(data?.items.at(-1));
	/** Most often first, by what the server counted. */
	const touched = $derived(
		(data?.handled ?? []).filter((i) => i.back || i.changed).sort((a, b) => b.changed - a.changed || b.back - a.back)
	);
	const ticks = $derived(
		scaleLinear([0, longest], [0, 1])
			.ticks(4)
			.filter((t) => t > 0)
	);
	const bar = $derived(Math.max(2, ((width - 56) / Math.max(1, data?.items.length ?? 1)) * 0.5));
</script>

<Notice text={asked.problem} />
{#if data}
	<Finding of="Time" station="Item quality" class="mb-3 max-w-[900px]">{data.finding}</Finding>
	<div class="grid grid-cols-[minmax(0,1fr)_320px] items-start gap-3">
		<div class="min-w-0 space-y-3">
			<Panel label="Time on each item, and who got there">
				<div class="small px-3 pt-2">
					{data.known
						? 'Above, who got to each item; below, seconds on it: the median, and the middle half of the students'
						: 'Who got to each item'}
				</div>
				<div bind:clientWidth={width}>
					<svg {width} {height} role="img" aria-label="By item; the table below has the figures">
						{#if data.items.length && last}
							<path d="{steps}V{shore}H{x(0) - half}Z" fill="var(--color-relief3)" opacity=".45" /><path
								d={steps}
								fill="none"
								stroke="var(--color-relief1)"
								stroke-width="2"
							/>
							<text x="34" y={there(1) + 4} font-size="11" text-anchor="end" fill="var(--color-ink2)">all</text>
							<text
								x={width - 12}
								y={Math.min(shore - 6, there(last.time.reached ?? 0) + 18)}
								font-size="12.5"
								font-weight="650"
								text-anchor="end"
								fill="var(--color-ink)">{percent(last.time.reached)}</text
							>
							<path d="M40 {shore}H{width - 8}" stroke="var(--color-ink2)" />
						{/if}
						{#each data.items as i, at (i.number)}
							<rect x={x(at) - half} y="10" width={half * 2} height={shore - 10} fill="transparent"
								><title>item {i.number}: {percent(i.time.reached)} reached it</title></rect
							>
							{#if i.time.quartiles}<rect
									x={x(at) - bar / 2}
									y={y(i.time.quartiles[1] ?? 0)}
									width={bar}
									height={Math.max(1, y(i.time.quartiles[0] ?? 0) - y(i.time.quartiles[1] ?? 0))}
									fill="var(--color-relief3)"
									opacity=".55"
								/>{/if}
							{#if i.time.median !== null}<path
									d="M{x(at) - bar / 2} {y(i.time.median)}h{bar}"
									stroke="var(--color-relief1)"
									stroke-width="2"><title>item {i.number}: median {Math.round(i.time.median)} s</title></path
								>{/if}
							{#if i.time.rapid}<text
									x={x(at)}
									y={ground - 3}
									font-size="11"
									text-anchor="middle"
									fill="var(--color-vermilion)"
									font-weight="650">{i.time.rapid}</text
								>{/if}
							{#if at % (data.items.length > 40 ? 5 : 2) === 0}<text
									x={x(at)}
									y={ground + 16}
									font-size="11"
									text-anchor="middle"
									fill="var(--color-ink2)">{i.number}</text
								>{/if}
						{/each}
						<path d="M40 {ground}H{width - 8}" stroke="var(--color-ink2)" />
						{#if data.known}{#each ticks as t (t)}<text
									x="34"
									y={y(t) + 4}
									font-size="11"
									text-anchor="end"
									fill="var(--color-ink2)">{t} s</text
								><path d="M40 {y(t)}H{width - 8}" stroke="var(--color-hair)" />{/each}{/if}
						<text x={width - 8} y={height - 6} font-size="11" text-anchor="end" fill="var(--color-ink2)"
							>item{moved.length ? '; figures on the ground line: rapid answers' : ''}</text
						>
					</svg>
				</div>
			</Panel>
			{#if short_of.length}
				<Panel label="Items not reached by everyone">
					<Table within="max-h-[300px]">
						<thead
							><tr
								><th class="n">Item</th><th class="n">Reached</th><th class="n">Correct, of those</th><th class="n"
									>Of all</th
								><th class="w-full"></th></tr
							></thead
						>
						<tbody
							>{#each short_of as i (i.number)}<tr
									><td class="n"
										><a class="word font-semibold" href={address.href('/quality/look/item', { item: i.time.item })}
											>{i.number}</a
										></td
									><td class="n">{percent(i.time.reached)}</td><td class="n font-semibold">{percent(i.time.p)}</td><td
										class="n">{percent(i.time.p_all)}</td
									><td></td></tr
								>{/each}</tbody
						>
					</Table>
				</Panel>
			{/if}
			{#if moved.length}
				<Panel label="Items with rapid answers">
					<Table within="max-h-[330px]">
						<thead
							><tr
								><th class="n">Item</th><th class="n">Median</th><th class="n">Rapid under</th><th class="n"
									>Rapid answers</th
								><th class="n">Correct by them</th><th class="n">Correct</th><th class="n">Without them</th></tr
							></thead
						>
						<tbody
							>{#each moved as i (i.number)}<tr
									><td class="n"
										><a class="word font-semibold" href={address.href('/quality/look/item', { item: i.time.item })}
											>{i.number}</a
										></td
									><td class="n">{Math.round(i.time.median ?? 0)} s</td><td class="n">{short(i.time.threshold, 1)} s</td
									><td class="n">{i.time.rapid}</td><td class="n">{percent(i.time.rapid_p)}</td><td class="n"
										>{percent(i.time.p)}</td
									><td class="n font-semibold">{percent(i.time.p_without)}</td></tr
								>{/each}</tbody
						>
					</Table>
				</Panel>
			{/if}
			{#if touched.length}
				<Panel label="Items that students came back to">
					<div class="small border-b border-hair px-3 py-2">
						Coming back and changing an answer show where students were unsure; neither is a fault.
					</div>
					<Table within="max-h-[300px]">
						<thead
							><tr
								><th class="n">Item</th><th class="n">Came back</th><th class="n">Changed the answer</th><th
									class="w-full"
								></th></tr
							></thead
						>
						<tbody
							>{#each touched as i (i.number)}<tr
									><td class="n">{i.number}</td><td class="n">{i.seen ? `${i.back} of ${i.seen}` : '–'}</td><td
										class="n">{i.changed} of {i.n}</td
									><td></td></tr
								>{/each}</tbody
						>
					</Table>
				</Panel>
			{/if}
			{#if data.hasty.length}
				<Panel label="Students of little effort">
					<div class="small border-b border-hair px-3 py-2">
						Students who answered more than {percent(1 - data.least_effort)} too fast to have read the items. Ask before drawing
						conclusions.
					</div>
					<Table within="max-h-[300px]">
						<thead
							><tr
								><th>Student</th><th>Class</th><th class="n">Effortful</th><th class="n">Rapid</th><th class="n"
									>Minutes</th
								><th class="n">Points</th></tr
							></thead
						><tbody
							>{#each data.hasty as h, at (h.person + at)}<tr
									><td><Student person={h.person} name={h.name} alias={alias(h.person)} /></td><td class="text-ink2"
										>{h.klass}</td
									><td class="n">{percent(h.effort)}</td><td class="n">{h.rapid}</td><td class="n"
										>{Math.round(h.minutes)}</td
									><td class="n">{percent(h.share)}</td></tr
								>{/each}</tbody
						>
					</Table>
				</Panel>
			{/if}
		</div>
		<aside class="space-y-3">
			<Panel label="Enough time" class="p-4 text-[13.5px]">
				<h2 class="mb-1">Was there enough time</h2>
				<Table>
					<tbody>
						<tr
							><td class="h-7 pl-0 text-ink2">reached the last item</td><td class="n h-7 pr-0 font-semibold"
								>{percent(data.reached_last)}</td
							></tr
						>
						<tr
							><td class="h-7 pl-0 text-ink2">reached 80% of theirs</td><td class="n h-7 pr-0"
								>{percent(data.reached_80)}</td
							></tr
						>
						{#if data.minutes}<tr
								><td class="h-7 pl-0 text-ink2">middle half took</td><td class="n h-7 pr-0"
									>{Math.round(data.minutes[0] ?? 0)} to {Math.round(data.minutes[2] ?? 0)} min</td
								></tr
							>{/if}
						{#if data.unfinished !== null}<tr
								><td class="h-7 pl-0 text-ink2">others stopped at</td><td class="n h-7 pr-0"
									>{Math.round(data.unfinished)} min</td
								></tr
							>{/if}
						<tr
							><td class="h-7 pl-0 text-ink2">time limit</td><td class="n h-7 pr-0"
								>{data.limit ? `${data.limit} min` : 'none'}</td
							></tr
						>
						<tr
							><td class="h-7 pl-0 text-ink2">time known of</td><td class="n h-7 pr-0">{data.known} of {data.n}</td></tr
						>
					</tbody>
				</Table>
			</Panel>
			<Panel label="Left out" class="p-4 text-[13.5px]">
				<h2 class="mb-1">The total, if rapid answers are left out</h2>
				{#if !data.rapid}<p class="text-ink2">No rapid answers.</p>{/if}
				<Table>
					<thead
						><tr
							><th class="pl-0"></th><th class="n">Students</th><th class="n">Mean</th><th class="n pr-0">Alpha</th></tr
						></thead
					><tbody>
						{#each ([['as it is', data.all], ['without rapid answers', data.answers_left_out], ['without those students', data.students_left_out]] as const).slice(0, data.rapid ? 3 : 1) as [name, t] (name)}<tr
								><td class="h-7 pl-0">{name}</td><td class="n h-7">{t.n}</td><td class="n h-7">{percent(t.mean)}</td><td
									class="n h-7 pr-0">{short(t.alpha)}</td
								></tr
							>{/each}
					</tbody>
				</Table>
			</Panel>
			<Panel label="How this was calculated" class="p-4 text-[13.5px]">
				<FigureText
					figure="effort"
					result="{data.rapid} rapid answers"
					numbers={[
						['students of little effort', String(data.little)],
						['little effort under', percent(data.least_effort)]
					]}
					counted="{data.known} of {data.n} students with a known time."
				/>
			</Panel>
		</aside>
	</div>
{:else if asked.busy}<p class="small" role="status">Looking …</p>{/if}
