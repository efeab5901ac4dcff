<script lang="ts">
	import { onMount } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime } from '$lib/words/show';

	/** Every discrepancy of the rosters with its likely cause and a one-step settlement. */
	let data = $state<Schemas['RosterCheckOut'] | null>(null);
	let problem = $state('');
	let done = $state<string[]>([]);
	let picked = $state<Record<string, string>>({});
	const WORDS: Record<string, string> = {
		reported: 'Reported from the room',
		session_lost: 'Planned for a class that is gone',
		proctor_left: 'Planned with a proctor who left',
		two_classes: 'In two classes of one subject or two homerooms',
		no_class: 'In no class',
		twice: 'Here twice',
		no_teacher: 'Without a teacher',
		no_students: 'Without students'
	};
	const kinds = $derived(
		Object.keys(WORDS)
			.map((kind) => ({ kind, list: data?.discrepancies.filter((d) => d.kind === kind) ?? [] }))
			.filter((k) => k.list.length)
	);

	let records = $state<Schemas['RecordsPage'] | null>(null);

	onMount(load);
	async function load() {
		try {
			data = await body(api.GET('/api/people/check'));
			if (staff.may('people.import')) records = await body(api.GET('/api/records'));
		} catch (error) {
			problem = said(error);
		}
	}

	async function settle(d: Schemas['Discrepancy'], step: Schemas['Step'], key: string) {
		problem = '';
		const choice = picked[key] ?? '';
		const pick = step.choices.length > 0;
		try {
			await api.POST('/api/people/check/settle', {
				body: {
					step: step.step,
					person_id: step.person_id ?? (pick ? choice : null),
					class_id: step.class_id ?? (pick && !step.session_id ? choice : null),
					report_id: step.report_id,
					session_id: step.session_id,
					other_id: step.other_id
				}
			});
			const name = step.choices.find((c) => c.id === choice)?.name;
			done = [
				`${shown(d, done.length)}: ${step.step === 'merge' && staff.veiled ? 'Records merged' : step.label}${name ? ` ${name}` : ''}`,
				...done
			];
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	async function withdraw(id: string) {
		try {
			await api.DELETE('/api/people/check/decisions/{decision_id}', { params: { path: { decision_id: id } } });
			await load();
		} catch (error) {
			problem = said(error);
		}
	}
	/** While names are hidden, what is said of a student names no student number either. */
	const what = (d: Schemas['Discrepancy']) => (staff.veiled && d.kind === 'twice' ? 'is here twice' : d.what);
	const label = (step: Schemas['Step'], n: number) =>
		staff.veiled && step.step === 'merge' ? `Keep record ${n + 1}` : step.label;
	const LOSS: Record<string, string> = {
		merge:
			'Merge the two records? Tests, classes, groups and accommodations of the other record move to the one that is kept. This cannot be undone.',
		set_aside: 'Set this person aside? Their results stay, and the next roster does not bring them back.'
	};
	const shown = (d: Schemas['Discrepancy'], at: number) =>
		['reported', 'session_lost', 'proctor_left', 'no_teacher', 'no_students'].includes(d.kind)
			? d.who
			: staff.name(d.who, at);
</script>

<svelte:head><title>Roster check · Bildung</title></svelte:head>

<h1 class="mb-3">{data?.finding ?? ''}</h1>
{#if records?.runs.length}<p class="-mt-2 mb-3 text-[13.5px] text-ink2">
		<a class="word" href="/people/records">Since the last time</a>: {records.finding}
	</p>{/if}
<Notice text={problem} onclose={() => (problem = '')} />
{#if done.length}
	<div class="sheet mb-3 px-4 py-2 text-[13.5px]" role="status">
		<b>Settled here:</b>
		{done.join('; ')}. The next roster does not undo it. Have it changed in the school's records as well.
	</div>
{/if}
{#each kinds as { kind, list } (kind)}
	<section class="sheet mb-3" aria-label={WORDS[kind]}>
		<h2 class="flex items-baseline gap-2 border-b border-hair px-4 py-2">
			{WORDS[kind]}
			<span class="small font-normal"
				>{data?.counts[kind]}; {list[0]?.cause}{(data?.counts[kind] ?? 0) > list.length
					? `; the first ${list.length} are shown`
					: ''}</span
			>
		</h2>
		{#each list as d, at (d.who + at)}
			<div
				class="flex flex-wrap items-center gap-x-4 gap-y-1.5 border-b border-hair2 px-4 py-2 text-[14px] last:border-b-0"
			>
				<span class="min-w-[280px] flex-1"><b class="font-semibold">{shown(d, at)}</b> {what(d)}</span>
				{#each d.steps as step, n (step.label)}
					{@const key = `${kind} ${d.who} ${at} ${n}`}
					<span class="flex items-center gap-1.5">
						{#if step.choices.length}
							<select
								class="input !mt-0 !w-auto max-w-[190px]"
								aria-label="{step.label}: choose for {shown(d, at)}"
								bind:value={picked[key]}
							>
								<option value={undefined}>choose</option>
								{#each step.choices as c (c.id)}<option value={c.id}>{c.name}</option>{/each}
							</select>
							<button class="btn" disabled={!picked[key]} onclick={() => settle(d, step, key)}>{step.label}</button>
						{:else if LOSS[step.step]}
							<Ask
								label={label(step, n)}
								question={LOSS[step.step] ?? ''}
								yes={step.step === 'merge' ? 'Merge' : 'Set aside'}
								onyes={() => settle(d, step, key)}
							/>
						{:else}
							<button class="btn" onclick={() => settle(d, step, key)}>{label(step, n)}</button>
						{/if}
					</span>
				{/each}
			</div>
		{/each}
	</section>
{/each}
{#if data?.decisions.length}
	<section class="sheet mb-3" aria-label="Decisions against the records">
		<h2 class="border-b border-hair px-4 py-2">
			Decisions against the records <span class="small font-normal"
				>{data.decisions.length}; they hold until the records agree or you undo them</span
			>
		</h2>
		{#each data.decisions as d (d.id)}
			<div class="flex items-center gap-3 border-b border-hair2 px-4 py-1.5 text-[13.5px] last:border-b-0">
				<span class="flex-1"
					>{staff.veiled ? 'A decision about a student' : d.says}<span class="small block"
						>{d.by}, {dateTime(d.at, staff.calendar?.zone ?? 'UTC')}</span
					></span
				><button class="btn quiet" onclick={() => withdraw(d.id)}>Undo</button>
			</div>
		{/each}
	</section>
{/if}
{#if data && !kinds.length}<p class="sheet p-6 text-ink2">
		Students in two classes of one subject or in none, second ids, classes without a teacher or students will stand
		here.
	</p>{/if}
