<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Review from '$lib/sitting/Review.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { moment } from '$lib/words/show';
	import Records from './Records.svelte';
	import { AUDIENCES, PARTS } from './releasing.svelte';
	import type { PageProps } from './$types';

	/** Results of a test: what is open first, who sees what from when, and how it will read. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const test = $derived(page.page);
	const choices = $derived(
		(test?.attempts ?? []).map((a, at) => ({
			value: a.sitting,
			label: `${staff.veiled ? `student ${at + 1}` : a.name}, ${a.klass}`
		}))
	);
	const closed = $derived((test?.sessions ?? []).filter((s) => s.closed).map((s) => s.session_id));
	const said = (parts: string[]) =>
		parts.map((part) => PARTS.find((p) => p.value === part)?.label.toLowerCase() ?? part).join(', ');
</script>

<Notice text={page.problem} onclose={() => (page.problem = '')} />
{#if test}
	<div class="small mb-1">
		<a class="word" href="/scoring">Scoring</a>&ensp;<a class="word" href="/scoring/release">Release</a>
	</div>
	<Finding of="Release" title="Release {test.form}" station="Scoring" beside="{test.form}, {test.window}" live
		>{page.done || test.finding}</Finding
	>
	{#if test.sessions.some((s) => s.releases.some((r) => r.audience === 'family'))}<Button
			kind="quiet"
			href="/api/releases/forms/{page.form}/letters.pdf?window={page.window}"
			target="_blank">Letters for families without an account (PDF)</Button
		>{/if}
	<div class="release mt-3">
		<div class="min-w-0">
			{#if test.open.length}<Panel label="Open first" class="mb-3 border-l-4 border-l-petrol px-5 py-3 text-[14px]">
					<h2 class="text-[15px]">Open before results go out</h2>
					<ul class="mt-1 grid gap-1">
						{#each test.open as matter (matter.says)}<li>
								<a class="word inline-block min-h-[24px]" href={matter.href}>{matter.says}</a>
							</li>{/each}
					</ul>
				</Panel>{/if}
			<Table within="sheet">
				<thead
					><tr
						><th class="w-8"
							><Checkbox
								label="All classes"
								checked={page.sessions.length === closed.length}
								onchange={(on) => (page.sessions = on ? closed : [])}
							/></th
						><th>Class</th><th class="n">Submitted</th><th>Released</th><th><span class="sr-only">Actions</span></th
						></tr
					></thead
				>
				<tbody>
					{#each test.sessions as session (session.session_id)}
						<tr>
							<td
								><Checkbox
									label={session.klass}
									disabled={!session.closed}
									checked={page.sessions.includes(session.session_id)}
									onchange={(on) =>
										(page.sessions = on
											? [...page.sessions, session.session_id]
											: page.sessions.filter((id) => id !== session.session_id))}
								/></td
							>
							<td
								><a class="word font-semibold" href="/sessions/{session.session_id}">{session.klass}</a><span
									class="small block leading-tight">{session.school}, {moment(session.start)}</span
								></td
							>
							<td class="n"
								>{session.submitted}{#if session.waiting}<span class="small block leading-tight"
										>{session.waiting} without a total</span
									>{/if}{#if session.held}<span class="small block leading-tight">{session.held} held back</span
									>{/if}</td
							>
							<td class="text-[13.5px]"
								>{#if !session.closed}<span class="small">still open</span
									>{/if}{#each session.releases as r (r.audience)}<span class="block leading-snug"
										><b>{r.audience === 'student' ? 'Students' : 'Families'}</b>
										{r.ahead ? `from ${moment(r.at)}` : `since ${moment(r.at)}`}: {said(r.shows)}</span
									>{:else}{#if session.closed}<span class="text-ink2">not released</span
										>{/if}{/each}{#if session.differs}<b class="block text-vermilion"
										>{session.differs} differ from what was told</b
									>{/if}</td
							>
							<td class="n"
								>{#each session.releases as r (r.audience)}<Ask
										quiet
										label="Withdraw from {r.audience === 'student' ? 'students' : 'families'}"
										question="They see nothing of these results any more."
										yes="Withdraw"
										onyes={() => page.withdraw(session.session_id, r.audience)}
									/>{/each}</td
							>
						</tr>
					{/each}
				</tbody>
			</Table>
			<Panel label="Held back" class="mt-3 px-5 py-3 text-[14px]">
				<h2 class="text-[15px]">Held back for single students</h2>
				{#each test.held as one (one.sitting)}<div class="mt-1 flex flex-wrap items-center gap-2">
						<span class="flex-1"
							><b>{staff.veiled ? 'a student' : one.name}</b>, {one.klass}<span class="small block">{one.why}</span
							></span
						><Button kind="quiet" onclick={() => page.hold(one.sitting, null)}>Let it go out</Button>
					</div>{:else}<p class="small">Every result goes out with its class.</p>{/each}
				{#if page.attempt}<div class="mt-2 flex flex-wrap items-center gap-2">
						<Ask
							label="Hold back the results of {choices.find((c) => c.value === page.attempt)?.label ??
								'this student'} …"
							question="This student's results are shown to no one: neither to the student nor to the family."
							reason="Why it is held back"
							yes="Hold back"
							onyes={(why) => page.hold(page.attempt, why)}
						/>
					</div>{/if}
			</Panel>
			{#if staff.may('scores.plan')}<Records form={page.form} window={page.window} />{/if}
		</div>
		<Panel label="Release" class="px-5 py-4 text-[14px]">
			<h2 class="text-[15px]">To whom</h2>
			<div class="mt-1 flex gap-4"><Checkboxes bind:values={page.audiences} choices={AUDIENCES} /></div>
			<h2 class="mt-3 text-[15px]">What they see</h2>
			<div class="mt-1 grid gap-1">
				<Checkboxes values={page.shows} choices={PARTS} onchange={(parts) => page.show(parts)} />
			</div>
			<h2 class="mt-3 text-[15px]">From when</h2>
			<RadioGroup
				label="From when"
				choices={[
					{ value: 'now', label: 'now' },
					{ value: 'later', label: 'from a day on, 7 in the morning' }
				]}
				value={page.later ? 'later' : 'now'}
				onchange={(value) => (page.later = value === 'later')}
			/>
			{#if page.later}<div class="mt-1"><DateField label="Day" bind:value={page.day} /></div>{/if}
			{#if choices.length}
				<h2 class="mt-3 text-[15px]">How it reads</h2>
				<Select label="Student" {choices} bind:value={page.attempt} small class="mt-1 w-full" />
				<div class="mt-1 flex gap-2">
					<Button onclick={() => page.look('student')}>Preview as student</Button>
					<Button onclick={() => page.look('family')}>As family</Button>
				</div>
			{/if}
			{#if page.asked}<div class="mt-3 border-l-4 border-vermilion pl-3" role="alert">
					<p>{page.asked.replace('Not accepted: ', '')}</p>
					<Button class="mt-1" onclick={() => page.release(true)}>Release all the same</Button>
				</div>{/if}
			<Button kind="primary" class="mt-4 w-full justify-center" disabled={!page.ready} onclick={() => page.release()}
				>Release {page.sessions.length === 1 ? '1 class' : `${page.sessions.length} classes`}</Button
			>
			<p class="small mt-1">Attempts that wait for a score stay back; everything else goes out at once.</p>
		</Panel>
	</div>
	<Dialog
		open={!!page.preview}
		title={page.previewed === 'student' ? 'As this student reads it' : 'As this family reads it'}
		wide
	>
		{#if page.preview}<div class="max-h-[62vh] overflow-auto text-[17px]" tabindex="-1">
				<Review review={page.preview} />
			</div>
			<Button class="mt-3" onclick={() => (page.preview = null)}>Close</Button>{/if}
	</Dialog>
{/if}

<style>
	.release {
		display: grid;
		gap: 12px;
		grid-template-columns: minmax(0, 1fr) 300px;
		align-items: start;
	}
	@media (max-width: 900px) {
		.release {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
