<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import Student from '$lib/parts/Student.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, OUTCOMES, STATE_WORDS, time } from '$lib/words/show';
	import CancelDialog from '../CancelDialog.svelte';
	import ChangeDialog from '../ChangeDialog.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Counts from './Counts.svelte';
	import CloseDialog from './CloseDialog.svelte';
	import Merge from './Merge.svelte';
	import SubstituteCode from './SubstituteCode.svelte';
	import SessionPick from './SessionPick.svelte';
	import Needing from './Needing.svelte';
	import { Room } from './room.svelte';
	import RoomBar from './RoomBar.svelte';
	import ProvidedHere from './ProvidedHere.svelte';
	import FormDialog from './FormDialog.svelte';
	import Support from './Support.svelte';
	import Split from './Split.svelte';
	import Skyline from './Skyline.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	let changing = $state(false);
	let canceling = $state(false);
	let splitting = $state(false);
	let merging = $state(false);
	const room = $derived(new Room(shown));
	$effect(() => shown.follow());

	const choosing = (name: string, at: number) => `Select ${staff.name(name, at)}`;
	const whole = (l: Schemas['SittingLine'], at: number) =>
		`Whole test of ${staff.name(l.name, at)}: answered ${l.answered} of ${l.items}`;

	/** What else there is to say of a student's attempt. */
	function notes({ room: r, way }: Schemas['SittingLine']): string[] {
		const added = r.added ? `${r.added} minutes added` : '';
		return [
			r.signs.join('; '),
			...r.device,
			r.restroom,
			r.left,
			r.offline_for,
			added,
			way === 'home' ? 'not at school' : '',
			r.irregularities ? 'irregularity noted' : ''
		].filter(Boolean);
	}
</script>

{#snippet answered(l: Schemas['SittingLine'], at: number)}
	{#if l.state === 'handed_in' && shown.data?.may_judge}<a
			class="word"
			href="/sessions/tests/{l.id}"
			aria-label={whole(l, at)}>{l.answered} of {l.items}</a
		>{:else}{l.answered} of {l.items}{/if}
{/snippet}

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data && shown.s}
	<div class="small mb-1">
		{#if staff.may('sessions.read')}<a class="word" href="/sessions?window={shown.s.window_id}">Sessions</a
			>{' · '}{/if}{shown.s.window} · {shown.s.by_name ? 'selected students, ' : ''}{shown.s.klass}, {shown.s.school} · {shown
			.s.form}{shown.s.part ? `, ${shown.s.part}` : ''} · {dateTime(shown.s.start, shown.zone)} to {time(
			shown.s.end,
			shown.zone
		)}{shown.s.room ? ` · ${shown.s.room}` : ''}{shown.s.proctor ? ` · ${shown.s.proctor}` : ''}
	</div>
	<div class="mb-3 flex items-start gap-3">
		<Finding of="Session" title={shown.s ? `${shown.s.klass}, ${shown.s.form}` : undefined} class="flex-1" live
			>{shown.data.finding}</Finding
		>
		{#if shown.s.phase !== 'closed'}<!-- as wide in both states, so that no row moves under the pointer --><span
				class="small mt-1.5 min-w-[86px] text-right">{shown.live ? 'live' : 'connecting …'}</span
			>{/if}
		{#if shown.movable}<Button onclick={() => (changing = true)}>Edit</Button><Button onclick={() => (canceling = true)}
				>Cancel session</Button
			>
			<Menu
				label="More"
				entries={[
					{ label: 'Split session', does: () => (splitting = true) },
					...(shown.data.others.length ? [{ label: 'Merge with another', does: () => (merging = true) }] : [])
				]}
			/>{/if}
		{#if shown.data.may_run && shown.s.phase === 'open'}<Button onclick={() => (shown.closing = true)}
				>Close session</Button
			>{/if}
		{#if shown.data.may_run && shown.data.sittings.some((sitting) => sitting.way === 'paper')}<Button
				href="/sessions/{shown.s.id}/paper">Type in answers from paper</Button
			>{/if}
		{#if shown.data.may_release && shown.s.phase === 'closed'}<Ask
				label="Release answers"
				question={shown.data.still_to_come.length
					? `${shown.data.still_to_come.length === 1 ? 'Another class still takes' : `${shown.data.still_to_come.length} other classes still take`} this test in the window: ${shown.data.still_to_come.slice(0, 4).join('; ')}${shown.data.still_to_come.length > 4 ? '; …' : ''}. Students who see the right answers now can pass them on. This cannot be undone.`
					: 'Show the students of this session the right answers? This cannot be undone.'}
				yes={shown.data.still_to_come.length ? 'Release anyway' : 'Release'}
				onyes={shown.release}
			/>{/if}
		{#if shown.data.may_open_again}<Button onclick={() => (shown.again = shown.again ? null : { until: '', why: '' })}
				>Reopen</Button
			>{/if}
		{#if shown.s.released_at}<span class="small mt-1.5">released to students</span>{/if}
		{#if shown.data.may_judge && (shown.s.counts.handed_in ?? 0) > 0}<Button
				kind="primary"
				href="/quality/look?form={shown.s.form_id}&window={shown.s.window_id}&session={shown.s.id}"
				>View item quality</Button
			>{/if}
	</div>
	{#if staff.may('mastery.enter') && shown.data.may_run && shown.s.phase === 'closed'}<Counts
			session={shown.s.id}
		/>{/if}
	{#if shown.s.instructions}<p class="sheet mb-3 px-4 py-2.5 text-[14px] whitespace-pre-line">
			{shown.s.instructions}
		</p>{/if}
	{#if shown.again}
		<form
			class="sheet mb-3 flex flex-wrap items-end gap-3 px-4 py-3"
			onsubmit={shown.reopen}
			aria-label="Reopen the session"
		>
			<p class="basis-full text-[14px]">
				Students who were cut off continue where they stopped; absent students can still join. Answers stay as they are.
			</p>
			<TimeField label="Ends today at" required bind:value={shown.again.until} />
			<label class="field min-w-[260px] flex-1"
				>Reason (kept in the log)<input class="input" maxlength="300" required bind:value={shown.again.why} /></label
			>
			<Button type="submit" kind="primary">Reopen</Button><Button onclick={() => (shown.again = null)}>Cancel</Button>
		</form>
	{/if}
	{#if shown.lateBy.length}
		<Panel label="Late answers" class="mb-3 px-4 py-3 text-[14px]">
			<h2 class="mb-1">
				{shown.data.late.length}
				{shown.data.late.length === 1 ? 'answer' : 'answers'} arrived after {shown.data.late.length === 1
					? 'it'
					: 'they'} could be taken
			</h2>
			{#each shown.lateBy as l, at (l.sitting)}
				<div class="flex flex-wrap items-center gap-3 border-t border-hair2 py-1.5">
					<span class="flex-1"
						><b class="font-semibold">{staff.name(l.name, at)}</b>: {l.answers
							.slice(0, 6)
							.map((a) => `${a.item} ${a.now || 'blank'} → ${a.answer || 'blank'}`)
							.join(', ')}{l.answers.length > 6 ? ` and ${l.answers.length - 6} more` : ''}<span class="small block"
							>{l.answers[0]?.why}, {dateTime(l.answers[0]?.at ?? '', shown.zone)}</span
						></span
					>
					<Ask
						label="Accept"
						question="Accept these answers as if they had arrived in time? The log records it."
						reason="Reason"
						yes="Accept"
						onyes={(why) => shown.late(l.sitting, true, why)}
					/><Ask
						label="Dismiss"
						quiet
						question="Leave these answers out? What counts now stays."
						yes="Dismiss"
						onyes={(why) => shown.late(l.sitting, false, why)}
					/>
				</div>
			{/each}
		</Panel>
	{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_262px] items-start gap-3">
		<div>
			<Skyline sittings={shown.data.sittings} items={shown.data.items} />
			{#if room.open}<Needing {room} />{/if}
		</div>
		<Panel class="px-4 py-3">
			<div class="small">Session code</div>
			<div class="font-mono text-[28px] leading-tight tracking-[0.14em]">{shown.s.code}</div>
			<p class="small">Students enter it with their sign-in code.</p>
			<div class="mt-1.5 flex flex-wrap gap-x-2 gap-y-1">
				{#if shown.data.may_run}<Button href="/api/sessions/{shown.s.id}/cards.pdf" target="_blank" rel="noopener"
						>Print tickets</Button
					><Button href="/api/building/sessions/{shown.s.id}/sheets.pdf" target="_blank" rel="noopener"
						>Answer sheets</Button
					>{/if}
				{#if staff.may('sessions.read')}<Button title="Report a roster problem" onclick={shown.report}
						>Report a problem</Button
					>{/if}
			</div>
			{#if shown.data.may_run && !shown.data.site_address && shown.local}<p
					class="small mt-1 border-l-4 border-vermilion pl-2"
				>
					Printed codes show {location.origin}, which works only on this machine. A coordinator can set the site address
					under Settings.
				</p>{/if}
			{#if shown.told}<p class="small" role="status">{shown.told}</p>{/if}
			{#if shown.data.may_run && shown.s.phase !== 'closed' && shown.s.phase !== 'canceled'}<SubstituteCode
					{shown}
				/>{/if}
		</Panel>
	</div>
	{#if staff.may('sessions.read')}<Support session={shown.id} moved={shown.listed} start={data.support} />{/if}
	{#if room.open}<RoomBar {room} />{/if}
	{#if room.open && shown.data.devices.length}<p class="mt-3 text-[14px]">{shown.data.devices.join('; ')}.</p>{/if}
	<Table within="sheet mt-3 max-h-[calc(100vh-360px)] min-h-[220px]">
		<thead
			><tr
				>{#if room.open}<th><span class="sr-only">Selected</span></th>{/if}<th>Student</th>{#if shown.data.may_hold}<th
						>Sign-in code</th
					>{/if}<th>State</th><th class="n">Answered</th><th>Last answer</th><th>Submitted</th>{#if shown.needing}<th
						>Accommodations</th
					>{/if}{#if shown.data.may_hold}<th></th>{/if}</tr
			></thead
		>
		<tbody>
			{#each shown.order as { id, sitting, at } (id)}
				<tr tabindex="-1" data-row>
					{#if room.open}<td
							><Checkbox
								checked={!!room.chosen[sitting.id]}
								label={choosing(sitting.name, at)}
								onchange={(is) => (room.chosen[sitting.id] = is)}
							/></td
						>{/if}
					<td
						><Student
							person={sitting.person}
							name={sitting.name}
							alias={at}
						/>{#if sitting.placed && !shown.s?.by_name}<span class="small block leading-tight">from another class</span
							>{/if}{#if sitting.note && !staff.veiled}<span class="small block leading-tight">{sitting.note}</span
							>{/if}{#if sitting.form && !staff.veiled}<span class="small block leading-tight"
								>{#if shown.data.may_judge && sitting.form_id}<a
										class="word"
										href="/quality/look?form={sitting.form_id}&window={shown.s.window_id}&session={shown.s.id}"
										>{sitting.form}</a
									>{:else}{sitting.form}{/if}</span
							>{/if}</td
					>
					{#if shown.data.may_hold}<td><code>{staff.veiled ? '·····' : sitting.code}</code></td>{/if}
					<td
						><span class:font-semibold={sitting.state === 'answering'}>{STATE_WORDS[sitting.state]}</span
						>{#each notes(sitting) as line (line)}<span class="small block leading-tight">{line}</span>{/each}</td
					>
					<td class="n">{@render answered(sitting, at)}</td>
					<td>{sitting.last_at ? time(sitting.last_at, shown.zone) : ''}</td>
					<td
						>{sitting.handed_in_at ? time(sitting.handed_in_at, shown.zone) : ''}{#if sitting.late}<span
								class="small block leading-tight">late</span
							>{/if}</td
					>
					{#if shown.needing}<td
							>{#if sitting.needs && !staff.veiled}{sitting.needs}{#if shown.s && sitting.until !== shown.s.end}, until {time(
										sitting.until,
										shown.zone
									)}{/if}{#if sitting.provided.length && shown.data.may_run && shown.s?.phase !== 'ahead'}<span
										class="block"
										><ProvidedHere
											session={shown.id}
											{sitting}
											name={sitting.name}
											onproblem={(says) => (shown.problem = says)}
										/></span
									>{/if}{/if}</td
						>{/if}
					{#if shown.data.may_hold}
						<td class="n whitespace-nowrap">
							{#if sitting.state === 'not_started'}
								<Button kind="quiet" class="min-h-[26px]" onclick={() => shown.mark(sitting, 'absent')}>Absent</Button>
								{#if room.open}<Button kind="quiet" class="min-h-[26px]" onclick={() => shown.mark(sitting, 'on_paper')}
										>On paper</Button
									>{/if}
								{#if shown.data.may_plan}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => shown.mark(sitting, 'exempt')}>Exempt</Button
									>{/if}
								{#if shown.movable && sitting.placed && !shown.s?.by_name}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => shown.unplace(sitting.person)}>Return to class</Button
									>{:else if shown.movable && shown.data?.others.length}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => ([shown.moving, shown.target] = [sitting, ''])}>Move</Button
									>{/if}
							{:else if ['absent', 'on_paper'].includes(sitting.state) || (['exempt', 'void'].includes(sitting.state) && shown.data.may_plan)}
								<Button kind="quiet" class="min-h-[26px]" onclick={() => shown.mark(sitting, 'back')}>Undo</Button>
							{:else}
								{#if sitting.state === 'answering' && shown.data.several_forms}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => (shown.forming = sitting)}>Form</Button
									>{/if}
								{#if sitting.state === 'handed_in' && shown.data.may_run}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => shown.reopenAttempt(sitting)}>Reopen</Button
									>{/if}
								{#if sitting.state === 'resting' && shown.data.may_plan}<Button
										kind="quiet"
										class="min-h-[26px]"
										href="/sessions/makeups?person={sitting.person}">Schedule the rest</Button
									>{/if}
								{#if sitting.state === 'answering' && shown.data.may_plan}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => shown.mark(sitting, 'interrupted')}>Interrupted</Button
									>{/if}
								{#if shown.data.may_plan && !['exempt', 'void'].includes(sitting.state)}<Button
										kind="quiet"
										class="min-h-[26px]"
										onclick={() => shown.mark(sitting, 'void')}>Invalidate</Button
									>{/if}
							{/if}
						</td>
					{/if}
				</tr>
			{/each}
		</tbody>
	</Table>
	{#if shown.data.irregularities.length}
		<Panel label="Irregularities" class="mt-3 px-4 py-2.5 text-[14px]">
			<h2 class="mb-1">
				{shown.data.irregularities.length}
				{shown.data.irregularities.length === 1 ? 'irregularity' : 'irregularities'} noted
			</h2>
			{#each shown.data.irregularities as one (one.id)}
				<p class="border-t border-hair2 py-1 first:border-t-0">
					<b class="mr-1.5 font-semibold">{!one.who ? 'The whole session' : staff.veiled ? 'A student' : one.who}</b
					>{one.text}
					<span class="small"
						>{time(one.at, shown.zone)}, {one.by}{one.outcome ? ` · ${OUTCOMES[one.outcome]}` : ''}</span
					>
				</p>
			{/each}
			{#if shown.data.may_plan}<p class="mt-1">
					<a class="word" href="/sessions/irregularities?window={shown.s.window_id}">Decide what they mean</a>
				</p>{/if}
		</Panel>
	{/if}
	{#if shown.movable || shown.data.not_here.length}
		<div class="mt-3 grid grid-cols-[minmax(0,1fr)_340px] items-start gap-3">
			{#if shown.data.not_here.length}
				<section class="sheet px-4 py-3" aria-labelledby="not-here">
					<h2 id="not-here" class="mb-1.5">
						{shown.data.not_here.length}
						{shown.data.not_here.length === 1 ? 'student' : 'students'} of this class not on the list
					</h2>
					<ul class="text-[14px]">
						{#each shown.data.not_here as p, at (p.person)}
							<li class="flex gap-3 border-t border-hair2 py-1.5 first:border-t-0">
								<a class="word min-w-[180px]" href="/people/{p.person}">{staff.name(p.name, at)}</a>
								<span class="flex-1"
									>{#if p.session}<a class="word" href="/sessions/{p.session}?window={shown.s.window_id}">{p.why}</a
										>{:else}{p.why}{/if}{p.instead ? `; ${p.instead}` : ''}</span
								>
							</li>
						{/each}
					</ul>
				</section>
			{:else}<div></div>{/if}
			{#if shown.movable}
				<Panel label="Add students" class="px-4 py-3">
					<PersonPick
						kind="student"
						label="Add a student of another class"
						but={shown.data.sittings.map((x) => x.person)}
						onpick={(p) => void shown.place([p.id], shown.id)}
					/>
					<p class="small mt-1.5">They leave the list of their own session of this test.</p>
				</Panel>
			{/if}
		</div>
	{/if}
	<CloseDialog {shown} />
	<Split bind:open={splitting} session={shown.s} sittings={shown.data.sittings} />
	<Merge bind:open={merging} session={shown.s} others={shown.data.others} />
	<ChangeDialog bind:open={changing} lines={[shown.s]} ondone={shown.load} />
	<CancelDialog bind:open={canceling} lines={[shown.s]} ondone={shown.load} />
	<Dialog
		bind:open={() => shown.moving !== null, (is) => is || (shown.moving = null)}
		title="Move {shown.moving ? staff.name(shown.moving.name, 0) : ''} to another session"
	>
		<SessionPick others={shown.data.others} bind:value={shown.target} />
		<div class="mt-3 flex justify-end gap-2">
			<Button onclick={() => (shown.moving = null)}>Cancel</Button>
			<Button kind="primary" disabled={!shown.target} onclick={shown.move}>Move</Button>
		</div>
	</Dialog>
{/if}
<FormDialog session={shown.id} bind:sitting={shown.forming} ondone={() => void shown.load()} />
