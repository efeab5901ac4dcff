<script lang="ts">
	import { onMount } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { withJob } from '$lib/api/job';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { decimal, moment, whole } from '$lib/words/show';

	/** Results for the school's records: what changed since the last sending first, then what was refused and why. */
	let { form, window }: { form: string; window: string } = $props();
	let page = $state.raw<Schemas['SendingPage'] | null>(null);
	let problem = $state('');
	let busy = $state(false);
	let progress = $state('');
	let all = $state(false);
	const lines = $derived(all ? page?.lines : page?.lines.slice(0, 6));
	const last = $derived(page?.runs[0]);

	async function load() {
		try {
			page = await body(
				api.GET('/api/releases/forms/{form}/records', { params: { path: { form }, query: { window } } })
			);
		} catch (error) {
			problem = said(error);
		}
	}
	onMount(load);

	async function send() {
		[busy, problem] = [true, ''];
		try {
			await withJob(
				(text) => (progress = text),
				(job) =>
					body(api.POST('/api/releases/forms/{form}/records', { params: { path: { form } }, body: { window, job } }))
			);
		} catch (error) {
			problem = said(error);
		}
		busy = false;
		await load();
	}
</script>

{#if page}
	<Panel label="School's records" class="mt-3 px-5 py-4 text-[14px]">
		<div class="flex flex-wrap items-start gap-3">
			<div class="min-w-0 flex-1">
				<h2 class="text-[15px]">School's records</h2>
				<p role="status">{busy ? progress || 'Sending …' : page.finding}</p>
			</div>
			<Button href="/api/releases/forms/{form}/gradebook?window={window}" download>Files (OneRoster 1.2)</Button>
			{#if page.system}<Button kind="primary" disabled={busy || !page.unsent} onclick={send}
					>Send {whole(page.unsent)}</Button
				>{/if}
		</div>
		{#if problem}<p class="mt-2 text-vermilion" role="alert">{problem}</p>{/if}
		{#if last?.lines.length}
			<p class="mt-2"><b>Refused on {moment(last.at)}</b></p>
			<ul>
				{#each last.lines as line (`${line.name} ${line.klass}`)}<li>
						{line.name ? `${staff.veiled ? 'a student' : line.name}, ` : ''}{line.klass}: {line.why}
					</li>{/each}
			</ul>
		{/if}
		{#if page.unknown.length}
			<p class="mt-2"><b>Cannot be sent</b></p>
			<ul>
				{#each page.unknown as line (`${line.name} ${line.klass}`)}<li>
						{staff.veiled ? 'a student' : line.name}, {line.klass}: {line.why}
					</li>{/each}
			</ul>
		{/if}
		{#if lines?.length}
			<div class="mt-2">
				<Table>
					<thead
						><tr
							><th class="pl-0">Student</th><th>Class</th><th>Status</th><th class="n">Score</th><th class="pr-0"
								>In the records</th
							></tr
						></thead
					>
					<tbody>
						{#each lines as line, at (at)}
							<tr
								><td class="h-7 pl-0">{staff.veiled ? `student ${at + 1}` : line.name}</td><td class="h-7"
									>{line.klass}</td
								><td class="h-7">{line.status}</td><td class="n h-7"
									>{line.score === null ? '' : `${decimal(line.score, 1)} of ${line.possible}`}</td
								><td class="h-7 pr-0">{line.sent ? 'differs' : 'not yet'}</td></tr
							>
						{/each}
					</tbody>
				</Table>
				{#if page.lines.length > 6}<Button kind="quiet" class="mt-1" onclick={() => (all = !all)}
						>{all ? 'Fewer' : `All ${whole(page.unsent)}`}</Button
					>{/if}
			</div>
		{/if}
		{#if page.runs.length}<p class="small mt-2">
				Last sent {moment(page.runs[0]?.at ?? '')} by {page.runs[0]?.by}: {whole(page.runs[0]?.sent ?? 0)} taken, {whole(
					page.runs[0]?.refused ?? 0
				)} refused.
			</p>{/if}
	</Panel>
{/if}
