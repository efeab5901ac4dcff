<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import { page } from '$app/state';
	import Notice from '$lib/parts/Notice.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);

	const made = $derived(page.url.searchParams.get('made') ?? '');
	const says = $derived(page.url.searchParams.get('says') ?? '');
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.data}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · companion forms; students see “{shown.data.title}” on each
	</div>
	<Finding of="Test family" title={shown.data?.name} class="mb-3">{shown.data.finding}</Finding>
	{#if says}<p class="mb-3 border-l-4 border-l-petrol pl-3 text-[13.5px]" role="status">
			{says} <a class="word" href="/tests/{made}">Preview</a>
		</p>{/if}

	{#if shown.data.total_unsettled}
		<Panel label="Assigned two forms" headed class="mb-3 border-l-4 border-l-vermilion p-4">
			<div class="grid gap-y-1" {@attach scrollable}>
				{#each shown.data.unsettled as u, at (u.person_id)}
					<div class="flex flex-wrap items-center gap-2 text-[13.5px]">
						<span class="w-44">{staff.name(u.name, at)}</span>
						{#each u.claims as claim, n (n)}
							<Button
								class="min-h-[28px]"
								disabled={shown.busy || !shown.data.may_write}
								onclick={() => shown.give(claim.form_id, { person_id: u.person_id })}
								>{shown.nameOf.get(claim.form_id)}</Button
							><span class="small">{claim.why}</span>
						{/each}
					</div>
				{/each}
			</div>
			{#if shown.data.total_unsettled > shown.data.unsettled.length}<p class="small mt-2">
					and {shown.data.total_unsettled - shown.data.unsettled.length} more; changing the groups resolves them
				</p>{/if}
		</Panel>
	{/if}

	<Panel label="Forms" class="mb-3 overflow-x-auto [&>.grid]:min-w-[940px]">
		<div
			class="grid grid-cols-[minmax(200px,1.5fr)_minmax(190px,1.2fr)_110px_minmax(230px,1.6fr)_120px] items-center gap-x-4 border-b border-hair px-3 py-2 text-[12px] text-ink2"
		>
			<span>Form</span><span>Points, shared with {shown.lead?.name ?? 'the general form'} in dark</span><span
				>Expected</span
			><span>Results beside those of the general form</span><span>State</span>
		</div>
		{#each shown.data.forms as f (f.id)}
			<div
				class="grid min-h-[52px] grid-cols-[minmax(200px,1.5fr)_minmax(190px,1.2fr)_110px_minmax(230px,1.6fr)_120px] items-center gap-x-4 border-b border-hair2 px-3 py-1.5 text-[13.5px] {f.id ===
				made
					? 'bg-wash'
					: ''} {f.superseded ? 'opacity-60' : ''}"
			>
				<span class="min-w-0"
					><a class="word" href="/tests/{f.id}">{f.name}</a><span class="small block"
						>{shown.ROLES[f.role] ?? f.role}{f.large_print ? ', large print' : ''}{f.faces
							? `, ${f.faces} shown otherwise`
							: ''}</span
					></span
				>
				<span>
					<svg
						width="100%"
						height="16"
						viewBox="0 0 180 16"
						preserveAspectRatio="none"
						role="img"
						aria-label="{f.points} points, {f.against ? f.against.points : f.points} of them shared"
						><rect width={(180 * f.points) / shown.most} height="16" fill="var(--color-relief4)" /><rect
							width={(180 * (f.against ? f.against.points : f.points)) / shown.most}
							height="16"
							fill="var(--color-relief2)"
						/></svg
					>
					<span class="small">{f.items} items, {f.points} points{f.against ? `; ${f.against.points} shared` : ''}</span>
				</span>
				<span
					>{f.share === null ? 'not known' : percent(f.share)}{#if f.minutes}<span class="small block"
							>{f.minutes} min</span
						>{/if}</span
				>
				<span class="text-ink2"
					>{#if f.against}{f.against.comparable}{#if f.against.missing.length}<span class="block"
								>without {f.against.missing.slice(0, 3).join(', ')}{f.against.missing.length > 3
									? ` and ${f.against.missing.length - 3} more`
									: ''}</span
							>{/if}{:else}scale: {f.scale || f.name}{/if}</span
				>
				<span
					>{f.superseded ? 'corrected' : f.published_at ? 'published' : 'draft'}{#if f.sessions}<span
							class="small block">{f.sessions} {f.sessions === 1 ? 'session' : 'sessions'}</span
						>{/if}</span
				>
			</div>
		{/each}
	</Panel>

	<Panel label="Who receives which" class="p-4">
		<h2 class="mb-2">Who receives which form</h2>
		<div class="grid grid-cols-[minmax(0,1fr)_340px] gap-8">
			<div>
				{#each shown.data.forms.filter((f) => f.against && !f.superseded) as f (f.id)}
					<div class="mb-2 text-[13.5px]">
						<b class="font-semibold">{f.name}</b>
						{#each shown.receives(f) as rule, at (rule.id)}
							<span class="ml-2 inline-flex items-center gap-1 rounded border border-hair bg-paper px-2"
								>{rule.group || staff.name(rule.person, at)}{#if rule.group}<span class="small">{rule.people}</span
									>{/if}{#if shown.data.may_write}<Button
										kind="quiet"
										class="min-h-[24px] px-1"
										aria-label="Take {rule.group || rule.person} off"
										onclick={() => shown.drop(rule.id)}>×</Button
									>{/if}</span
							>
						{/each}
						{#if shown.need(f)}<span class="small ml-2">{shown.need(f)} by accommodation</span>{/if}
						{#if !shown.receives(f).length && !shown.need(f)}<span class="small ml-2"
								>{f.role === 'alternate' || f.role === 'parallel'
									? 'dealt out in turn, where a session says so'
									: 'none yet'}</span
							>{/if}
					</div>
				{:else}<p class="small">No companion forms yet. Open the general form to add one.</p>{/each}
				<p class="small mt-3">
					All other students receive {shown.lead?.name ?? 'the general form'}. A student's own assignment comes first,
					then groups and accommodations, then rotation. Students who have started keep their form.
				</p>
			</div>
			{#if shown.data.may_write && shown.data.forms.some((f) => f.against)}
				<div class="flex flex-col gap-3">
					<label class="field"
						>Form<Select
							bind:value={shown.form}
							choices={shown.data.forms.filter((f) => !f.superseded).map((f) => ({ value: f.id, label: f.name }))}
						/></label
					>
					<div class="flex items-end gap-2">
						<label class="field flex-1"
							>for a group<Select
								bind:value={shown.group}
								choices={[
									{ value: '', label: 'choose' },
									...shown.data.groups.map((g) => ({ value: g.id, label: `${g.name} (${g.members})` }))
								]}
							/></label
						><Button
							disabled={!shown.group || !shown.form || shown.busy}
							onclick={() => shown.give(shown.form, { group_id: shown.group })}>Assign</Button
						>
					</div>
					<PersonPick
						kind="student"
						label="or for one student"
						onpick={(person) => shown.give(shown.form, { person_id: person.id })}
					/>
				</div>
			{/if}
		</div>
	</Panel>
{/if}
