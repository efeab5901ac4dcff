<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import { page } from '$app/state';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { address } from './address.svelte';

	/** What is looked at, as words; opened, as controls. Every choice stands in the address. */
	let { scope, problem }: { scope: Schemas['ScopeChoices'] | null; problem: string } = $props();
	let open = $state(false);
	let views = $state<Schemas['View'][] | null>(null);
	let name = $state('');
	let told = $state('');

	type Kind = 'form' | 'window' | 'school' | 'grade' | 'class' | 'group';
	const lists = $derived<[Kind, string, Schemas['ScopeChoice'][]][]>(
		scope
			? [
					['form', 'Forms, by what they have in common', scope.related.length > 1 ? scope.related : []],
					['window', 'Windows', scope.windows.length > 1 ? scope.windows : []],
					['school', 'Schools', scope.schools.length > 1 ? scope.schools : []],
					['grade', 'Grades', scope.grades.length > 1 ? scope.grades : []],
					['class', 'Classes', scope.classes.length > 1 ? scope.classes : []],
					['group', 'Only students of a group', scope.groups]
				]
			: []
	);
	const narrowed = $derived(
		['session', 'school', 'grade', 'class', 'group', 'student', 'since', 'until', 'regular'].some((k) => address.get(k))
	);
	const line = $derived(Math.round((address.scope.line ?? 0.6) * 100));

	/** Nothing ticked means all of them. */
	function toggle(kind: Kind, id: string, all: Schemas['ScopeChoice'][]) {
		const now = address.all(kind);
		if (kind === 'form') return address.toggle('form', id);
		const next = now.includes(id) ? now.filter((v) => v !== id) : [...now, id];
		return address.set({ [kind]: next.length === all.length ? null : next });
	}
	const isOn = (kind: Kind, c: Schemas['ScopeChoice']) =>
		kind === 'form' || kind === 'group' ? c.chosen : address.all(kind).includes(c.id);
	const widen = () =>
		address.set({
			session: null,
			school: null,
			grade: null,
			class: null,
			group: null,
			student: null,
			since: null,
			until: null,
			regular: null
		});

	async function loadViews() {
		try {
			views = await body(api.GET('/api/quality/views'));
		} catch (error) {
			told = said(error);
		}
	}
	async function keep(event: SubmitEvent) {
		event.preventDefault();
		try {
			await body(api.POST('/api/quality/views', { body: { name, path: page.url.pathname, query: page.url.search } }));
			[told, name] = [`Saved as ${name}.`, ''];
			await loadViews();
		} catch (error) {
			told = said(error);
		}
	}
	async function drop(id: string) {
		await api.DELETE('/api/quality/views/{view_id}', { params: { path: { view_id: id } } });
		await loadViews();
	}
</script>

<div class="small mb-1 flex flex-wrap items-center gap-x-2 gap-y-1">
	<a class="word" href={`/quality${address.get('window') ? `?window=${address.get('window')}` : ''}`}>Item quality</a>
	<button class="word min-h-[24px] text-left text-ink" aria-expanded={open} onclick={() => (open = !open)}
		>{scope ? scope.words.join(' · ') : '…'}</button
	>
	{#if narrowed}<button class="word min-h-[24px]" onclick={widen}>show all students</button>{/if}
	<span class="ml-auto flex items-center gap-3">
		<button
			class="word min-h-[24px]"
			aria-expanded={views !== null}
			onclick={() => (views ? (views = null) : loadViews())}>Views</button
		>
		<label class="flex items-center gap-1.5"
			>watch line <input
				class="w-[58px] rounded border border-edge bg-sheet px-1.5 py-0.5 text-right text-ink"
				type="number"
				min="0"
				max="100"
				step="5"
				value={line}
				onchange={(e) => address.set({ line: e.currentTarget.value === '60' ? null : e.currentTarget.value })}
			/> %</label
		>
	</span>
</div>
{#if problem}<p class="mb-2 border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
{#if views}
	<div
		class="sheet mb-2 flex flex-wrap items-center gap-x-4 gap-y-1 p-2.5 text-[13px]"
		role="group"
		aria-label="Saved views"
	>
		{#each views as v (v.id)}<span class="inline-flex min-h-[26px] items-center gap-1"
				><button class="word" onclick={() => goto(v.path + v.query)}>{v.name}</button><Button
					kind="quiet"
					class="min-h-[24px] px-1"
					aria-label="Delete view {v.name}"
					onclick={() => drop(v.id)}>×</Button
				></span
			>{:else}<span class="small">No saved views.</span>{/each}
		<form class="ml-auto flex items-center gap-2" onsubmit={keep}>
			<span class="small" role="status">{told}</span><input
				class="input mt-0 min-h-[28px] w-52"
				aria-label="Save view as"
				placeholder="save view as …"
				required
				maxlength="80"
				bind:value={name}
			/><Button type="submit" class="min-h-[28px]">Save</Button>
		</form>
	</div>
{/if}
{#if open && scope}
	<div class="sheet mb-2 flex flex-wrap gap-x-8 gap-y-3 p-3 text-[13px]" role="group" aria-label="What is looked at">
		{#each lists as [kind, title, all] (kind)}
			{#if all.length}
				<fieldset class="max-w-[340px]">
					<legend class="small"
						>{title}{kind === 'form' || kind === 'group' || address.all(kind).length
							? ''
							: ': all, until some are ticked'}</legend
					>
					<div class="max-h-[190px] overflow-auto pr-3">
						{#each all as c (c.id)}
							<Checkbox
								checked={isOn(kind, c)}
								disabled={kind === 'form' && c.chosen && scope.forms.length === 1}
								onchange={() => toggle(kind, c.id, all)}
								>{c.name}{#if kind !== 'class' || c.n > 1}<span class="small"
										>{c.n}
										{kind === 'group' ? (c.n === 1 ? 'student' : 'students') : c.n === 1 ? 'session' : 'sessions'}</span
									>{/if}</Checkbox
							>
						{/each}
					</div>
				</fieldset>
			{/if}
		{/each}
		{#if scope.irregular}
			<fieldset class="max-w-[260px]">
				<legend class="small">Irregularities</legend>
				<Checkbox checked={scope.regular} onchange={(on) => address.set({ regular: on ? 'true' : null })}
					>Leave out {scope.irregular === 1 ? 'the student' : `the ${scope.irregular} students`} with an irregularity</Checkbox
				>
			</fieldset>
		{/if}
		<fieldset>
			<legend class="small">Days</legend>
			<DateField
				label="from"
				value={address.get('since') ?? ''}
				onchange={(to) => address.set({ since: to || null })}
			/>
			<DateField label="to" value={address.get('until') ?? ''} onchange={(to) => address.set({ until: to || null })} />
		</fieldset>
	</div>
{/if}
