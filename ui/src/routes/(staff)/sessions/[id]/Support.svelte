<script lang="ts">
	import { untrack } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import Student from '$lib/parts/Student.svelte';

	/** Readers, scribes and interpreters at this session: who is with whom, and who is missing. */
	let {
		session,
		moved,
		start
	}: {
		session: string;
		moved: string;
		/** As it was when the page opened: it stands there at once, and moves nothing below it. */
		start: Schemas['SupportPage'] | null;
	} = $props();
	type Line = Schemas['SupportLine'];
	let found = $derived(start);
	let problem = $state('');
	/** The line that somebody is picked for; by its key, since lines are read anew while the session runs. */
	let picking = $state('');
	const key = (line: Line) => `${line.student} ${line.kind}`;
	const path = $derived({ session_id: session });

	async function load() {
		try {
			found = await body(api.GET('/api/sessions/{session_id}/support', { params: { path } }));
		} catch (error) {
			problem = said(error);
		}
	}
	let seen = untrack(() => moved);
	$effect(() => {
		if (moved === seen) return; // the list, or what its students have, has not changed
		seen = moved;
		void load();
	});

	async function go(work: Promise<unknown>) {
		problem = '';
		try {
			await work;
			picking = '';
		} catch (error) {
			problem = said(error);
		}
		await load();
	}
	const assign = (line: Line, staff_id: string) =>
		go(
			api.POST('/api/sessions/{session_id}/support', {
				params: { path },
				body: { staff_id, kind: line.kind, students: [line.student] }
			})
		);
	const withdraw = (line: Line) =>
		go(
			api.DELETE('/api/sessions/{session_id}/support/{student_id}/{kind}', {
				params: { path: { session_id: session, student_id: line.student, kind: line.kind } }
			})
		);
</script>

{#if found?.lines.length}
	<Panel label="Support" class="mt-3 px-4 py-3 text-[14px]">
		<h2 class="mb-1">{found.finding}</h2>
		<Notice text={problem} onclose={() => (problem = '')} />
		{#each found.lines as line, at (key(line))}
			<div class="flex flex-wrap items-center gap-3 border-t border-hair2 py-1.5">
				<span class="w-48"><Student person={line.student} name={line.name} alias={at} /></span>
				<span class="w-56 {line.staff ? '' : 'notch'}">{line.kind_says}</span>
				<span class="flex-1">{line.staff_name || 'not assigned'}</span>
				{#if found.may_assign}
					{#if picking === key(line)}
						<span class="w-64"
							><PersonPick kind="staff" label="Who is with them" onpick={(p) => void assign(line, p.id)} /></span
						>
						<Button kind="quiet" onclick={() => (picking = '')}>Cancel</Button>
					{:else}
						<Button kind="quiet" class="min-h-[26px]" onclick={() => (picking = key(line))}
							>{line.staff ? 'Change' : 'Assign'}</Button
						>
						{#if line.staff}<Button kind="quiet" class="min-h-[26px]" onclick={() => withdraw(line)}>Remove</Button
							>{/if}
					{/if}
				{/if}
			</div>
		{/each}
	</Panel>
{/if}
