<script lang="ts">
	import Student from '$lib/parts/Student.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, STATE_WORDS, time } from '$lib/words/show';
	import Skyline from './Skyline.svelte';

	let data = $state<Schemas['SessionDetail'] | null>(null);
	let problem = $state('');
	let live = $state(false);
	let told = $state('');
	let asked = 0;
	const local = /^(localhost|127\.|\[?::1)/.test(location.hostname);

	const id = $derived(page.params.id ?? '');
	const zone = $derived(staff.calendar?.zone ?? 'UTC');
	const s = $derived(data?.session);
	const needing = $derived(data?.sittings.some((x) => x.needs) ?? false);

	async function load() {
		try {
			const mine = ++asked;
			const answer = await body(api.GET('/api/sessions/{session_id}', { params: { path: { session_id: id } } }));
			if (mine === asked) data = answer;
		} catch (error) {
			problem = said(error);
		}
	}

	onMount(() => {
		void load();
		const events = new EventSource(`/api/sessions/${id}/events`);
		events.addEventListener('open', () => {
			live = true;
			void load(); // whatever moved while the line was down
		});
		events.addEventListener('moved', () => void load());
		events.addEventListener('end', () => {
			events.close();
			live = false;
		});
		events.onerror = () => (live = false);
		return () => events.close();
	});

	async function mark(sitting: Schemas['SittingLine'], state: 'absent' | 'exempt' | 'void' | 'back') {
		let why = '';
		if (state === 'void' || state === 'exempt') {
			const given = prompt(
				`Why is the sitting of ${sitting.name} ${state === 'void' ? 'void' : 'not needed'}? It is kept in the log.`
			);
			if (given === null) return;
			why = given;
		}
		try {
			await api.POST('/api/sessions/{session_id}/sittings/{sitting_id}', {
				params: { path: { session_id: id, sitting_id: sitting.id } },
				body: { state, why }
			});
			await load();
		} catch (error) {
			problem = said(error);
		}
	}

	async function report() {
		const text = prompt('What is wrong with this list? The coordinator sees it in the roster check, with your name.');
		if (!text) return;
		try {
			await api.POST('/api/sessions/{session_id}/report', { params: { path: { session_id: id } }, body: { text } });
			told = 'Passed on to the coordinator.';
		} catch (error) {
			problem = said(error);
		}
	}

	async function release() {
		const despite = (data?.still_to_come.length ?? 0) > 0;
		try {
			await api.POST('/api/sessions/{session_id}/release', { params: { path: { session_id: id } }, body: { despite } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}

	let again = $state<{ until: string; why: string } | null>(null);
	const lateBy = $derived.by(() => {
		const by = new Map<string, { sitting: string; name: string; answers: Schemas['LateAnswer'][] }>();
		for (const a of data?.late ?? [])
			by.set(a.sitting, { sitting: a.sitting, name: a.name, answers: [...(by.get(a.sitting)?.answers ?? []), a] });
		return [...by.values()];
	});
	async function reopen(event: SubmitEvent) {
		event.preventDefault();
		if (!again) return;
		try {
			await api.POST('/api/sessions/{session_id}/open', {
				params: { path: { session_id: id } },
				body: { until: `${staff.calendar?.today}T${again.until}:00`, why: again.why }
			});
			again = null;
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	async function late(sitting_id: string, take: boolean, why: string) {
		try {
			await api.POST('/api/sessions/{session_id}/late/{sitting_id}', {
				params: { path: { session_id: id, sitting_id } },
				body: { take, why }
			});
			await load();
		} catch (error) {
			problem = said(error);
		}
	}

	async function close() {
		const c = s?.counts ?? {};
		if (
			!confirm(
				`Close this session? ${c.answering ?? 0} still answering hand in as they are, ${c.not_started ?? 0} who never started are absent.`
			)
		)
			return;
		try {
			await api.POST('/api/sessions/{session_id}/close', { params: { path: { session_id: id } } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>{s ? `${s.klass}, ${s.form}` : 'Session'} · Bildung</title></svelte:head>

<Notice text={problem} onclose={() => (problem = '')} />
{#if data && s}
	<div class="small mb-1">
		<a class="word" href="/sessions?window={s.window_id}">Sessions</a> · {s.window} · {s.klass}, {s.school} · {s.form}{s.part
			? `, ${s.part}`
			: ''} · {dateTime(s.start, zone)} to {time(s.end, zone)}{s.room ? ` · ${s.room}` : ''}{s.proctor
			? ` · ${s.proctor}`
			: ''}
	</div>
	<div class="mb-3 flex items-start gap-3">
		<h1 class="flex-1" aria-live="polite">{data.finding}</h1>
		{#if s.phase !== 'closed'}<span class="small mt-1.5">{live ? 'live' : 'connecting …'}</span>{/if}
		{#if data.may_run && s.phase === 'open'}<button class="btn" onclick={close}>Close the session</button>{/if}
		{#if data.may_release && s.phase === 'closed'}<Ask
				label="Release answers"
				question={data.still_to_come.length
					? `${data.still_to_come.length === 1 ? 'Another class still takes' : `${data.still_to_come.length} other classes still take`} this test in the window: ${data.still_to_come.slice(0, 4).join('; ')}${data.still_to_come.length > 4 ? '; …' : ''}. Students who see the right answers now can pass them on. This cannot be undone.`
					: 'Show the students of this session the right answers? This cannot be undone.'}
				yes={data.still_to_come.length ? 'Release anyway' : 'Release'}
				onyes={release}
			/>{/if}
		{#if data.may_open_again}<button class="btn" onclick={() => (again = again ? null : { until: '', why: '' })}
				>Reopen</button
			>{/if}
		{#if s.released_at}<span class="small mt-1.5">released to students</span>{/if}
		{#if data.may_judge && (s.counts.handed_in ?? 0) > 0}<a
				class="btn primary"
				href="/quality/look?form={s.form_id}&window={s.window_id}&session={s.id}">Judge the test</a
			>{/if}
	</div>
	{#if again}
		<form class="sheet mb-3 flex flex-wrap items-end gap-3 px-4 py-3" onsubmit={reopen} aria-label="Reopen the session">
			<p class="basis-full text-[14px]">
				Students who were cut off go on where they were; students who were absent can still come. Their answers stay as
				they are.
			</p>
			<label class="field"
				>Ends today at<input class="input !w-28" type="time" required bind:value={again.until} /></label
			>
			<label class="field min-w-[260px] flex-1"
				>Reason; it is kept in the log<input class="input" maxlength="300" required bind:value={again.why} /></label
			>
			<button class="btn primary">Reopen</button><button type="button" class="btn" onclick={() => (again = null)}
				>Cancel</button
			>
		</form>
	{/if}
	{#if lateBy.length}
		<section class="sheet mb-3 px-4 py-3 text-[14px]" aria-label="Late answers">
			<h2 class="mb-1">
				{data.late.length}
				{data.late.length === 1 ? 'answer' : 'answers'} arrived after {data.late.length === 1 ? 'it' : 'they'} could be taken
			</h2>
			{#each lateBy as l, at (l.sitting)}
				<div class="flex flex-wrap items-center gap-3 border-t border-hair2 py-1.5">
					<span class="flex-1"
						><b class="font-semibold">{staff.name(l.name, at)}</b>: {l.answers
							.slice(0, 6)
							.map((a) => `${a.item} ${a.now || 'blank'} → ${a.answer || 'blank'}`)
							.join(', ')}{l.answers.length > 6 ? ` and ${l.answers.length - 6} more` : ''}<span class="small block"
							>{l.answers[0]?.why}, {dateTime(l.answers[0]?.at ?? '', zone)}</span
						></span
					>
					<Ask
						label="Accept"
						question="Accept these answers as if they had arrived in time? The log says that you did."
						reason="Reason"
						yes="Accept"
						onyes={(why) => late(l.sitting, true, why)}
					/><Ask
						label="Dismiss"
						quiet
						question="Leave these answers out? What counts now stays."
						yes="Dismiss"
						onyes={(why) => late(l.sitting, false, why)}
					/>
				</div>
			{/each}
		</section>
	{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_262px] items-start gap-3">
		<Skyline sittings={data.sittings} items={data.items} />
		<section class="sheet px-4 py-3">
			<div class="small">Session code</div>
			<div class="font-mono text-[28px] leading-tight tracking-[0.14em]">{s.code}</div>
			<p class="small">Students enter it with their own code.</p>
			<div class="mt-1.5 flex flex-wrap gap-x-2 gap-y-1">
				{#if data.may_run}<a class="btn" href="/api/sessions/{s.id}/cards.pdf" target="_blank" rel="noopener"
						>Print the cards</a
					><a class="btn" href="/api/building/sessions/{s.id}/sheets.pdf" target="_blank" rel="noopener"
						>Answer sheets</a
					>{/if}
				<button class="btn" title="Something is wrong with this list of students" onclick={report}>List is wrong</button
				>
			</div>
			{#if data.may_run && !data.site_address && local}<p class="small mt-1 border-l-4 border-vermilion pl-2">
					Printed codes carry {location.origin}, which only this machine reaches. A coordinator sets the address of this
					site under Settings.
				</p>{/if}
			{#if told}<p class="small" role="status">{told}</p>{/if}
		</section>
	</div>
	<section {@attach scrollable} class="sheet frozen mt-3 max-h-[calc(100vh-360px)] min-h-[220px]">
		<table>
			<thead
				><tr
					><th>Student</th>{#if data.may_run}<th>Own code</th>{/if}<th>State</th><th class="n">Answered</th><th
						>Last answer</th
					><th>Handed in</th>{#if needing}<th>Needs, and until</th>{/if}{#if data.may_run}<th></th>{/if}</tr
				></thead
			>
			<tbody>
				{#each data.sittings as sitting, at (sitting.id)}
					<tr tabindex="-1" data-row>
						<td
							><Student
								person={sitting.person}
								name={sitting.name}
								alias={at}
							/>{#if sitting.form && !staff.veiled}<span class="small block leading-tight"
									>{#if data.may_judge && sitting.form_id}<a
											class="word"
											href="/quality/look?form={sitting.form_id}&window={s.window_id}&session={s.id}">{sitting.form}</a
										>{:else}{sitting.form}{/if}</span
								>{/if}</td
						>
						{#if data.may_run}<td><code>{staff.veiled ? '·····' : sitting.code}</code></td>{/if}
						<td class:font-semibold={sitting.state === 'answering'}>{STATE_WORDS[sitting.state]}</td>
						<td class="n">{sitting.answered} of {sitting.items}</td>
						<td>{sitting.last_at ? time(sitting.last_at, zone) : ''}</td>
						<td>{sitting.handed_in_at ? time(sitting.handed_in_at, zone) : ''}</td>
						{#if needing}<td
								>{#if sitting.needs && !staff.veiled}{sitting.needs}{#if s && sitting.until !== s.end}, until {time(
											sitting.until,
											zone
										)}{/if}{/if}</td
							>{/if}
						{#if data.may_run}
							<td class="n">
								{#if sitting.state === 'not_started'}
									<button class="btn quiet !min-h-[26px]" onclick={() => mark(sitting, 'absent')}>Absent</button>
									<button class="btn quiet !min-h-[26px]" onclick={() => mark(sitting, 'exempt')}>Exempt</button>
								{:else if ['absent', 'exempt', 'void'].includes(sitting.state)}
									<button class="btn quiet !min-h-[26px]" onclick={() => mark(sitting, 'back')}>Take back</button>
								{:else}
									<button class="btn quiet !min-h-[26px]" onclick={() => mark(sitting, 'void')}>Void</button>
								{/if}
							</td>
						{/if}
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{/if}
