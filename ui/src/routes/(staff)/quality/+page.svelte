<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, type Schemas } from '$lib/api/client';
	import Whose from '$lib/parts/Whose.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, decimal, percent, reliefColor, short } from '$lib/words/show';
	import { Asked } from './look/asked.svelte';

	/** Every test that was sat in the window, items to review first. */
	const chosen = $derived(staff.window(page.url.searchParams.get('window')));
	const asked = new Asked(
		(job) =>
			staff.calendar
				? body(api.GET('/api/quality', { params: { query: { window: chosen?.id, job } } }))
				: Promise.resolve(null),
		() => `${chosen?.id} ${!!staff.calendar}`
	);
	const data = $derived(asked.data);
	const kinds = (of: 'subject' | 'grade') =>
		[...new Set((data?.tests ?? []).map((t) => t[of]))]
			.filter(Boolean)
			.sort((x, y) => x.localeCompare(y, 'en', { numeric: true }));
	const subjects = $derived(kinds('subject'));
	const grades = $derived(kinds('grade'));
	let subject = $state('');
	let grade = $state('');
	const shown = $derived(
		(data?.tests ?? []).filter((t) => (!subject || t.subject === subject) && (!grade || t.grade === grade))
	);
	const whole = (value: number | null) => decimal(value, value !== null && value % 1 ? 1 : 0);
	const behind = (t: Schemas['TestLine'], of: string) =>
		body(api.GET('/api/quality/whose', { params: { query: { form: [t.form_id], window: [t.window_id], of } } }));
	const path = (t: Schemas['TestLine']) => `/quality/look?form=${t.form_id}&window=${t.window_id}`;
</script>

<div class="small mb-1">{chosen ? `${chosen.name}, ${day(chosen.start)} to ${day(chosen.end)}` : ''}</div>
<div class="mb-3 flex items-start gap-3">
	<Finding of="Item quality" class="flex-1">{data?.finding ?? ''}</Finding>
	<Button kind="quiet" href="/quality/verdicts"
		>Item decisions{data?.undecided ? `, ${data.undecided} to make` : ''}</Button
	><Button kind="quiet" href="/quality/reports">Reports</Button>
</div>
<Notice text={asked.problem} />
{#if data?.tests.length}
	{#if data.tests.length > 5 && subjects.length * grades.length > 1}
		<div class="small mb-2 flex items-center gap-3">
			{#if subjects.length > 1}<Select
					label="Subject"
					choices={[{ value: '', label: 'all subjects' }, ...subjects.map((s) => ({ value: s, label: s }))]}
					bind:value={subject}
					small
					class="w-auto"
				/>{/if}
			{#if grades.length > 1}<Select
					label="Grade"
					choices={[{ value: '', label: 'all grades' }, ...grades.map((g) => ({ value: g, label: `grade ${g}` }))]}
					bind:value={grade}
					small
					class="w-auto"
				/>{/if}
			{#if shown.length < data.tests.length}<span role="status">{shown.length} of {data.tests.length}</span>{/if}
		</div>
	{/if}
	<Table within="sheet max-h-[calc(100vh-190px)]">
		<thead
			><tr
				><th>Test</th><th class="n">Taken</th><th class="n">Absent</th><th
					class="n"
					title="mean of the points, with the lowest and the highest total">Mean (low–high)</th
				><th class="n">Reliability</th><th>Items sound</th><th>Correct, hardest to easiest</th><th>Main finding</th></tr
			></thead
		>
		<tbody>
			{#each shown as t (`${t.form_id} ${t.window_id}`)}
				<tr tabindex="-1" data-row class="h-[42px]" onclick={() => goto(path(t))}>
					<td class="whitespace-nowrap"><a class="word" href={path(t)}>{t.form}</a></td>
					<td class="n"><Whose title="Attempted" load={() => behind(t, 'took')}>{t.sat}</Whose></td>
					<td class="n"
						>{#if t.absent}<Whose title="Absent" load={() => behind(t, 'absent')}>{t.absent}</Whose>{:else}0{/if}</td
					>
					<td class="n whitespace-nowrap"
						>{#if t.mean !== null}{decimal(t.mean)}
							<span class="small">of {whole(t.points)} ({whole(t.low)}–{whole(t.high)})</span>{:else}–{/if}</td
					>
					<td class="n">{short(t.alpha)}</td>
					<td>
						<span
							class="inline-flex items-center gap-2 whitespace-nowrap"
							title="{t.sound} sound, {t.look} to review, {t.items - t.sound - t.look} not examined"
						>
							<span class="inline-flex h-3 w-[110px] border border-relief3">
								<span class="bg-relief5" style:width="{(t.sound / t.items) * 100}%"></span>
								<span class="bg-relief1" style:width="{(t.look / t.items) * 100}%"></span>
							</span>
							{t.sound} of {t.items}
						</span>
					</td>
					<td>
						<svg
							width={t.profile.length * 5 + 2}
							height="32"
							role="img"
							aria-label="from {percent(t.profile[0] ?? null)} to {percent(t.profile.at(-1) ?? null)}"
							class="block"
						>
							{#each t.profile as p, at (at)}<rect
									x={1 + at * 5}
									y={30 - p * 28}
									width="4"
									height={p * 28}
									fill={reliefColor(p)}
								/>{/each}
							<path d="M0 30.500H{t.profile.length * 5 + 2}" stroke="var(--color-ink2)" /><path
								d="M0 {30 - 0.6 * 28}H{t.profile.length * 5 + 2}"
								stroke="var(--color-ink2)"
								stroke-dasharray="2 3"
								stroke-width=".7"
							/>
						</svg>
					</td>
					<td class="min-w-[200px] whitespace-normal">
						{#if t.first[0]?.urgent}<span class="notch">{t.first[0].text}</span>{t.first[1]?.text ?? ''}
						{:else if t.look}{t.look} {t.look === 1 ? 'item' : 'items'} to review
						{:else}<span class="text-ink2">no findings</span>{/if}
					</td>
				</tr>
			{/each}
		</tbody>
	</Table>
{:else if !data}<p class="small" role="status">{asked.progress || (asked.busy ? 'Judging tests …' : '')}</p>
{:else}
	<div class="sheet p-6 text-ink2">
		Tests of this window appear here once students have submitted. <a class="word" href="/sessions">Go to Sessions</a>.
	</div>
{/if}
