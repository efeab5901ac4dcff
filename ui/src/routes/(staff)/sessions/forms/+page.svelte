<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Student from '$lib/parts/Student.svelte';
	import type { PageProps } from './$types';

	/** Which student takes which form in this window, and why: to be looked at before it opens. */
	let { data }: PageProps = $props();
	let all = $state(false);
	const several = $derived((data.found?.tests ?? []).filter((t) => t.uses.length > 1));
	const shown = $derived(all ? (data.found?.tests ?? []) : several);
	const ROLES: Record<string, string> = { mirror: 'practice' };
	const FILL = ['var(--color-relief4)', 'var(--color-relief2)', 'var(--color-relief3)', 'var(--color-vermilion)'];
	const most = $derived(Math.max(1, ...shown.map((t) => t.n)));
</script>

{#snippet names(use: Schemas['FormUse'])}
	<Popover label="Students with {use.form}: {use.students.length}" button="word">
		{#snippet shown()}{use.students.length}{/snippet}
		<div class="max-h-[320px] overflow-auto">
			{#each use.students as one, at (one.session + one.person)}
				<div class="flex justify-between gap-6">
					<Student person={one.person} name={one.name} alias={at} />
					<a class="word" href="/sessions/{one.session}?window={data.window?.id}">{one.klass}</a>
				</div>
			{/each}
		</div>
	</Popover>
{/snippet}

<p class="small mb-1"><a class="word" href="/sessions?window={data.window?.id ?? ''}">Sessions</a></p>
<Finding of="Forms" beside={data.found?.window ?? ''} class="mb-3 max-w-[900px]">{data.found?.finding ?? ''}</Finding>
<Notice text={data.problem} />
{#if data.found}
	{#if data.found.unsettled.length}
		<Panel label="Named for several forms" class="mb-3">
			<h2 class="px-4 pt-3 pb-1">Named for more than one form</h2>
			<p class="small px-4 pb-2">They take the form of the class until this is resolved on the test family's page.</p>
			<Table>
				<thead><tr><th>Student</th><th>Class</th><th>Named for</th></tr></thead>
				<tbody>
					{#each data.found.unsettled as one, at (one.session + one.person)}
						<tr>
							<td><Student person={one.person} name={one.name} alias={at} /></td>
							<td><a class="word" href="/sessions/{one.session}?window={data.window?.id}">{one.klass}</a></td>
							<td>{one.claims.join('; ')}</td>
						</tr>
					{/each}
				</tbody>
			</Table>
		</Panel>
	{/if}
	{#if data.found.alike}<div class="mb-2">
			<Checkbox bind:checked={all}>include the {data.found.alike} tests with one form for everyone</Checkbox>
		</div>{/if}
	<Panel>
		<Table
			within="max-h-[calc(100vh-230px)]"
			rows={shown.length}
			empty="Every student takes the form of the class in every upcoming session."
		>
			<thead><tr><th>Test</th><th>Form</th><th>Why</th><th class="n">Students</th><th class="w-[26%]"></th></tr></thead>
			{#each shown as t (t.test + t.grade + t.subject)}
				<tbody>
					{#each t.uses as use, at (use.form_id + use.why)}
						<tr>
							{#if at === 0}<td rowspan={t.uses.length} class="align-top"
									><span class="block pt-1 font-semibold">{t.test}</span><span class="small"
										>grade {t.grade}, {t.n.toLocaleString('en-US')} attempts</span
									></td
								>{/if}
							<td class={use.other ? 'font-semibold' : ''}
								><a class="word" href="/tests/{use.form_id}">{use.form}</a>
								{#if !use.form.includes(use.role) && use.other}<span class="small">{ROLES[use.role] ?? use.role}</span
									>{/if}</td
							>
							<td>{use.why}</td>
							<td class="n">{@render names(use)}</td>
							<td
								><span
									class="block h-3"
									style:width="{(use.students.length / most) * 100}%"
									style:min-width="2px"
									style:background={use.other ? FILL[1] : FILL[0]}
								></span></td
							>
						</tr>
					{/each}
				</tbody>
			{/each}
		</Table>
	</Panel>
{/if}
