<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { tellKeys } from '$lib/state/keys.svelte';
	import { onMount } from 'svelte';
	import { beforeNavigate, goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { KINDS } from '$lib/bank/editor/kinds';
	import PartEditor from '$lib/bank/editor/PartEditor.svelte';
	import RichField from '$lib/bank/editor/RichField.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { inline } from '$lib/sitting/question/answer';
	import Preview from './Preview.svelte';
	import Variants from './Variants.svelte';
	import type { PageProps } from './$types';

	/** Writing an item: at the left what is written, at the right what the student sees and how an answer is scored. */
	let { data }: PageProps = $props();
	const draft = $derived(data.draft);
	const standards = $derived(data.standards);
	const stimuli = $derived(data.stimuli);
	let stimulus = $state<Schemas['StimulusView'] | null>(null);
	let problem = $derived(data.problem);

	const content = $derived(draft.content);
	const wire = $derived(draft.wire);
	const texts = $derived(new Map(standards.map((s) => [s.code, s.text])));
	const STATUS = { '': '', kept: 'All changes saved', saved: 'Saved', writing: 'Not saved yet', saving: 'Saving …' };

	onMount(() => {
		about().catch((error) => (problem = said(error)));
		const warn = (event: BeforeUnloadEvent) => {
			if (draft.status === 'writing' || draft.status === 'saving') event.preventDefault();
		};
		window.addEventListener('beforeunload', warn);
		return () => {
			window.removeEventListener('beforeunload', warn);
			draft.stop();
		};
	});
	beforeNavigate(() => {
		if (draft.status === 'writing' && !draft.stale) void draft.save();
	});

	async function about() {
		stimulus = draft.stimulus
			? (await body(api.GET('/api/bank/stimuli/{stimulus_id}', { params: { path: { stimulus_id: draft.stimulus } } })))
					.view
			: null;
	}

	async function finish() {
		if (await draft.act('finish')) await goto(`/bank/items/${draft.id}`);
	}
	async function discard() {
		const had = wire?.of;
		if (await draft.act('discard')) await goto(had ? `/bank/items/${draft.id}` : '/bank');
	}
	function tool(name: 'counters' | 'tiles', on: boolean) {
		if (!content) return;
		content.shown.tools = (['counters', 'tiles'] as const).filter((t) =>
			t === name ? on : content.shown.tools.includes(t)
		);
		draft.changed();
	}
	const kindOf = (at: number) => {
		const part = content?.shown.parts[at];
		if (!part) return '';
		if (part.type === 'choice') return part.most === 1 ? 'choice' : 'multiple';
		if (part.type === 'entry') return part.numeric ? 'numeric' : 'text';
		if (part.type === 'match') return part.sorted_into ? 'category' : 'match';
		return part.type;
	};
	tellKeys([['Ctrl+S', 'Save a copy']]);
</script>

<svelte:window
	onkeydown={(e) => {
		if ((e.ctrlKey || e.metaKey) && e.key === 's') {
			e.preventDefault();
			void draft.save();
		}
	}}
/>

{#if wire && content}
	<div class="small mb-1">
		<a class="word" href="/bank">Bank</a> ·
		<a class="word" href={wire.of ? `/bank/items/${draft.id}` : '/bank'}>{wire.code}</a>{wire.offered_from
			? ` · offered from ${wire.offered_from}`
			: ''}
	</div>
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Item" title={wire ? `Writing ${wire.code}` : 'Writing'} class="min-w-[280px] flex-1">
			{wire.code}: draft of version {(wire.of ?? 0) + 1}{wire.stage === 'in_review' ? ', in review' : ''},
			{wire.faults.length === 0
				? 'complete'
				: `${wire.faults.length} ${wire.faults.length === 1 ? 'problem' : 'problems'} to fix`}.
		</Finding>
		<span class="small mt-1.5" role="status">{STATUS[draft.status]}</span>
		<Ask
			label="Discard draft"
			question={wire.of
				? `Throw this draft away? Version ${wire.of} stays as it is.`
				: `Throw ${wire.code} away? It has no version yet; all of it goes.`}
			yes="Discard"
			onyes={discard}
		/>
		{#if wire.stage === 'draft'}<Button disabled={wire.faults.length > 0} onclick={() => draft.act('review')}
				>Ask for review</Button
			>
		{:else}<Button onclick={() => draft.act('review', true)}
				>Return to {wire.author.split(' ')[0] || 'its author'}</Button
			>{/if}
		{#if wire.may_finish}<Button kind="primary" disabled={wire.faults.length > 0} onclick={finish}
				>Publish version {(wire.of ?? 0) + 1}</Button
			>{/if}
	</div>
	<Notice text={problem || draft.problem} onclose={() => ((problem = ''), (draft.problem = ''))} />
	{#if draft.stale}<p class="mb-3">
			<Button onclick={() => location.reload()}>Open the current version</Button>
			<span class="small">What you wrote since stays on this page until then; copy what you want to keep.</span>
		</p>{/if}
	<div class="grid grid-cols-[minmax(0,1fr)_minmax(0,1fr)] items-start gap-3">
		<div class="grid gap-3">
			<Panel label="Question" headed class="p-4">
				<RichField
					html={content.shown.body}
					label="Question"
					ongap={(kind) => draft.gap(kind)}
					onchange={(html) => draft.body(html)}
				/>
				<div class="mt-2 flex flex-wrap items-end gap-4">
					<label class="field w-[230px]"
						>About<Select
							value={draft.stimulus ?? ''}
							choices={[{ value: '', label: 'nothing else' }, ...stimuli.map((s) => ({ value: s.id, label: s.title }))]}
							onchange={(to) => {
								draft.stimulus = to || null;
								draft.changed();
								void about();
							}}
						/></label
					>
					<Checkbox
						checked={content.shown.tools.includes('counters')}
						onchange={(on) => tool('counters', on)}
						class="pb-1.5">counters</Checkbox
					>
					<Checkbox checked={content.shown.tools.includes('tiles')} onchange={(on) => tool('tiles', on)} class="pb-1.5"
						>number tiles</Checkbox
					>
				</div>
			</Panel>
			{#each content.shown.parts as part, at (part.id)}
				<Panel label="Part {part.id}" class="p-4">
					<div class="mb-2 flex flex-wrap items-end gap-2">
						<h2 class="flex-1">
							{inline(part) ? `Gap ${part.id}` : content.shown.parts.length > 1 ? `Part ${part.id}` : 'Answer'}
						</h2>
						{#if inline(part)}
							<span class="small pb-1">{part.type === 'menu' ? 'a choice in the text' : 'to be written in'}</span>
						{:else}
							<label class="field"
								><span class="sr-only">Kind of answer</span><Select
									value={kindOf(at)}
									choices={KINDS.map(([name, title]) => ({ value: name, label: title }))}
									onchange={(to) => draft.replace(at, to)}
									class="mt-0"
								/></label
							>
						{/if}
						{#if !(part.type === 'writing')}<label class="field flex items-center gap-1"
								>points<input
									class="input mt-0 w-[64px]"
									type="number"
									min="0"
									max="100"
									step="0.5"
									value={content.scoring[at]?.points}
									onchange={(e) => {
										const s = content.scoring[at];
										if (s) {
											s.points = Math.max(0, Number(e.currentTarget.value) || 0);
											draft.changed();
										}
									}}
								/></label
							>{/if}
						{#if content.shown.parts.length > 1}<Button kind="quiet" onclick={() => draft.remove(at)}>Remove</Button
							>{/if}
					</div>
					<PartEditor {content} {at} onchange={draft.changed} />
				</Panel>
			{/each}
			<div class="flex flex-wrap gap-2">
				<Menu
					label="Add part"
					entries={[...KINDS, ['reason', 'Reason for the answer']].map(([name, title]) => ({
						label: title ?? '',
						does: () => draft.add(name ?? '')
					}))}
				/>
			</div>
			<Panel label="Where it belongs" class="p-4">
				<h2 class="mb-1">Standards</h2>
				{#each draft.standards as code, at (code)}
					<p class="flex items-center gap-2 py-0.5">
						<code>{code}</code><span class="small flex-1"
							>{at === 0 ? 'main' : 'additional'}: {texts.get(code) ?? ''}</span
						>
						{#if at}<Button
								kind="quiet"
								class="min-h-[24px]"
								onclick={() => {
									draft.standards = [code, ...draft.standards.filter((c) => c !== code)];
									draft.changed();
								}}>make main</Button
							>{/if}
						<Button
							kind="quiet"
							class="min-h-[24px]"
							aria-label="Remove {code}"
							onclick={() => {
								draft.standards = draft.standards.filter((c) => c !== code);
								draft.changed();
							}}>×</Button
						>
					</p>
				{/each}
				<input
					class="input"
					list="all-standards"
					placeholder="Add a standard by code or words"
					aria-label="Add a standard"
					onchange={(e) => {
						const code = e.currentTarget.value.split(' ')[0] ?? '';
						if (texts.has(code) && !draft.standards.includes(code)) {
							draft.standards = [...draft.standards, code];
							draft.changed();
							e.currentTarget.value = '';
						}
					}}
				/>
				<datalist id="all-standards"
					>{#each standards as s (s.code)}<option value="{s.code} {s.text.slice(0, 80)}"></option>{/each}</datalist
				>
			</Panel>
			<Panel label="Guidance and scoring" class="p-4">
				<details open={!!content.behind.guidance}>
					<summary class="min-h-[24px] cursor-pointer font-semibold">Scoring guidance</summary>
					<div class="field mt-2">
						Scoring guidance<RichField
							html={content.behind.guidance}
							label="Scoring guidance"
							onchange={(html) => {
								content.behind.guidance = html;
								draft.changed();
							}}
						/>
					</div>
				</details>
				<details open={!!content.behind.solution || content.behind.hints.length > 0}>
					<summary class="min-h-[24px] cursor-pointer font-semibold">Worked solution and hints</summary>
					<div class="field mt-2">
						Worked solution<RichField
							html={content.behind.solution}
							label="Worked solution"
							onchange={(html) => {
								content.behind.solution = html;
								draft.changed();
							}}
						/>
					</div>
					{#each content.behind.hints as hint, at (at)}
						<div class="field mt-2 flex items-start gap-2">
							<div class="flex-1">
								Hint {at + 1}<RichField
									html={hint}
									label="Hint {at + 1}"
									small
									onchange={(html) => {
										content.behind.hints[at] = html;
										draft.changed();
									}}
								/>
							</div>
							<Button
								kind="quiet"
								class="mt-4"
								onclick={() => {
									content.behind.hints.splice(at, 1);
									draft.changed();
								}}>Remove</Button
							>
						</div>
					{/each}
					<Button
						kind="quiet"
						class="px-0"
						onclick={() => {
							content.behind.hints.push('');
							draft.changed();
						}}>Add hint</Button
					>
				</details>
			</Panel>
			<Variants {draft} />
		</div>
		<div class="sticky top-3 grid gap-3">
			<Preview {content} {stimulus} saved={wire.revision} template={draft.template} />
			{#if wire.faults.length}
				<Panel label="Problems" class="p-4">
					<h2 class="mb-1">To fix</h2>
					<ul>
						{#each wire.faults as f, at (at)}<li class="py-0.5"><b>{f.place}</b>: {f.wanted}</li>{/each}
					</ul>
				</Panel>
			{/if}
		</div>
	</div>
{:else}<Notice text={problem} onclose={() => (problem = '')} />{/if}
