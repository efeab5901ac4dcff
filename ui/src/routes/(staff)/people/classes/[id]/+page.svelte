<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { goto } from '$app/navigation';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { dateTime, day } from '$lib/words/show';
	import Devices from './Devices.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.told}<p
		class="mb-3 flex items-center gap-3 border-l-4 border-petrol bg-wash px-4 py-2 text-[14px]"
		role="status"
	>
		<span class="flex-1">{shown.told}</span><Button kind="quiet" onclick={() => (shown.told = '')}>Close</Button>
	</p>{/if}
{#if shown.data}
	<div class="small mb-1">
		<a class="word" href="/people/classes">Classes</a> · {shown.data.klass.school}{shown.data.klass.period
			? ` · period ${shown.data.klass.period}`
			: ''}{shown.data.klass.year ? ` · ${shown.data.klass.year}` : ''}
	</div>
	<div class="mb-3 flex items-start gap-3">
		<Finding of="Class" title={shown.data?.klass.title} class="flex-1">{shown.data.finding}</Finding>
		{#if shown.data.may_run}<Button onclick={shown.live}>Start a live round</Button>{/if}
	</div>
	{#if shown.data.asking.length}
		<Panel label="Join requests" class="mb-3">
			<h2 class="border-b border-hair px-4 py-2">Join requests</h2>
			{#each shown.data.asking as a, at (a.id)}
				<div class="flex flex-wrap items-center gap-3 border-b border-hair2 px-4 py-2 text-[14px] last:border-b-0">
					<span class="min-w-[220px] flex-1"
						><b class="font-semibold">{staff.name(a.name, at)}</b> since {dateTime(a.at, shown.zone)}</span
					>
					<Select
						label="Who {a.name} is"
						choices={[
							...a.matches.map((m) => ({ value: m.id, label: `is ${m.name}` })),
							{ value: '', label: 'is new to the school' }
						]}
						bind:value={shown.picked[a.id]}
						class="mt-0 w-auto"
					/>
					{#if a.others}<span class="small"
							>{a.others === 1 ? 'A student' : `${a.others} students`} of this name {a.others === 1 ? 'is' : 'are'} at the
							school already: a coordinator decides.</span
						>{/if}
					<Button kind="primary" disabled={!!a.others && !shown.picked[a.id]} onclick={() => shown.decide(a.id, true)}
						>Accept</Button
					>
					<Button onclick={() => shown.decide(a.id, false)}>Decline</Button>
				</div>
			{/each}
		</Panel>
	{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_270px] items-start gap-3">
		<Panel label="Students">
			<Table within="max-h-[calc(100vh-260px)]">
				<thead
					><tr
						><th>Student</th>{#if shown.data.may_run}<th>Sign-in code</th>{/if}<th>Last sign-in</th>{#if shown.place}<th
								>From</th
							>{/if}<th>Accommodations</th><th>Joined</th></tr
					></thead
				>
				<tbody>
					{#each shown.data.students as s, at (s.id)}
						<tr tabindex="-1" data-row onclick={() => goto(`/people/${s.id}`)}>
							<td><a class="word" href="/people/{s.id}">{staff.name(s.name, at)}</a></td>
							{#if shown.data.may_run}<td><code>{staff.veiled ? '·····' : s.code}</code></td>{/if}
							<td
								>{#if s.last_sign_in_at}{dateTime(s.last_sign_in_at, shown.zone)}{:else}<span class="text-ink2"
										>never</span
									>{/if}</td
							>
							{#if shown.place}<td>{s.last_place}</td>{/if}
							<td>{staff.veiled ? '' : s.needs}</td>
							<td>{s.begins ? day(s.begins) : ''}</td>
						</tr>
					{:else}
						<tr
							><td colspan="6" class="text-ink2"
								>No students yet. Students come from the roster, or join with the class code once join requests are
								allowed.</td
							></tr
						>
					{/each}
				</tbody>
			</Table>
			{#if shown.data.left.length}<p class="small border-t border-hair p-2">
					Left the class: {staff.veiled ? shown.data.left.length : shown.data.left.join(', ')}. Their results stay.
				</p>{/if}
		</Panel>
		{#if shown.data.may_run}
			<Panel label="Codes" class="p-4 text-[14px]">
				<div class="small">Class code</div>
				<div class="font-mono text-[26px] tracking-[0.14em]">{shown.data.code ?? '–'}</div>
				<p class="small mb-3">
					With the class code and their sign-in code, students open their own page. For a test they use the session
					code.
				</p>
				<div class="mb-4 flex flex-wrap gap-2">
					<Button href="/api/classes/codes.pdf?ids={shown.id}" target="_blank" rel="noopener">Test tickets</Button>
					<Button href="/api/classes/codes.pdf?ids={shown.id}&cards=false" target="_blank" rel="noopener"
						>Code list</Button
					>
					<Ask
						label="New class code"
						question="The old class code stops working, and printed tickets become invalid."
						yes="Create code"
						onyes={() => shown.door(shown.data?.open_door ?? false, true)}
					/>
				</div>
				<Devices klass={shown.id} students={shown.data.students} />
				<Checkbox checked={shown.data.open_door} onchange={(on) => shown.door(on)}
					><span>New students can ask to join with the class code. You accept them here.</span></Checkbox
				>
			</Panel>
		{/if}
	</div>
{/if}
