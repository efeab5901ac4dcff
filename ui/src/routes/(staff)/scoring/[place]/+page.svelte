<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Key from '$lib/design/Key.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import AsAsked from '$lib/parts/AsAsked.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import Sketch from '$lib/parts/Sketch.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { moment } from '$lib/words/show';
	import Rubric from './Rubric.svelte';
	import type { PageProps } from './$types';

	/** One response after the other: the question at the left, what was written in the middle, the rubric at the right. */
	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	const desk = $derived(shown.desk);
	const response = $derived(shown.response);
	const WORTH: Record<string, string> = { zero: 'scores 0', missing: 'is missing', second: 'goes to a second scorer' };
	const WAITS: Record<string, string> = {
		'': 'scored',
		score: 'waits for a score',
		second: 'waits for a second scorer; the first score is not shown',
		adjudication: 'two scorers are too far apart: settle it'
	};
	let anchors = $state(false);
</script>

<svelte:window onkeydown={(event) => shown.key(event, staff.letterKeys)} />
<div class="small mb-1">
	<a class="word" href="/scoring">Scoring</a>{#if desk}<span>&ensp;{desk.form}, {desk.window} · item {desk.number}</span
		>{/if}
</div>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if desk}
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Item {desk.number}, {desk.item}" title="Score {desk.item}" station="Scoring" class="flex-1" live
			>{shown.finding}</Finding
		>
		{#if response}
			{#if response.mine}<Button disabled={shown.busy} onclick={() => shown.withdraw()}>Withdraw my score</Button>{/if}
			<Button disabled={shown.busy} onclick={() => shown.skip()}>Skip <Key>→</Key></Button>
			<Button kind="primary" disabled={shown.busy || !shown.ready} onclick={() => shown.save()}
				>Save and next <Key>Enter</Key></Button
			>
		{/if}
	</div>
	<div class="desk">
		<Panel label="Question" class="px-4 py-3">
			<AsAsked shown={desk.shown} stimulus={desk.stimulus} name="asked" height="62vh" />
			{#if desk.guidance}<p class="small mt-2 border-t border-hair pt-2"><b>For scorers:</b> {desk.guidance}</p>{/if}
			{#if desk.anchors.length}
				<div class="mt-2 border-t border-hair pt-2">
					<Button kind="quiet" aria-expanded={anchors} onclick={() => (anchors = !anchors)}
						>Anchor papers ({desk.anchors.length})</Button
					>
					{#if anchors}
						{#each desk.anchors as anchor, at (at)}
							<blockquote class="mt-2 border-l-4 border-hair pl-3 text-[14px]">
								{anchor.answer}
								<span class="small block">{anchor.points} of {desk.maximum}{anchor.why ? `: ${anchor.why}` : ''}</span>
							</blockquote>
						{/each}
					{/if}
				</div>
			{/if}
		</Panel>
		<Panel label="Response" class="flex flex-col px-5 py-3">
			{#if response && shown.progress}
				<div class="border-b border-hair pb-2">
					<h2 class="text-[15px]">Response {response.number} of {shown.progress.responses}</h2>
					<p class="small">
						Names hidden, in random order · {WAITS[response.waits]} · you scored {shown.progress.today} today
					</p>
				</div>
				<div {@attach scrollable} class="min-h-[220px] flex-1 overflow-auto py-3">
					{#each response.answer as part (part.part)}
						<p class="mb-4 text-[20px] leading-[1.5] whitespace-pre-wrap" dir="auto">
							{part.answer || '(nothing in this part)'}
						</p>
					{/each}
					{#if response.sketch}<Sketch value={response.sketch} />{/if}
					{#if response.notes}<p class="small mt-2"><b>Notes of the student:</b> {response.notes}</p>{/if}
					{#if response.others.length}
						<p class="small mt-2">
							<b>Other parts:</b>
							{response.others.map((o) => `${o.part}) ${o.answer}`).join(', ')} ({response.by_rule} points by the key)
						</p>
					{/if}
					{#if response.given.length}
						<p class="small mt-2 border-l-4 border-petrol pl-3">
							{#each response.given as given (given.by)}{given.by}: {given.code
									? desk.conditions.find((c) => c.code === given.code)?.word
									: `${given.points} points`}{given.truth
									? ', pre-scored'
									: given.final
										? ', settled it'
										: ''}{given.second ? ', asked for a second opinion' : ''}.&ensp;{/each}
						</p>
					{/if}
				</div>
				{#if response.whole}<p class="small pb-2">
						<a class="word" href="/sessions/tests/{response.sitting}?item={desk.number}">The whole test</a>, with the
						student's name
					</p>{/if}
				<label class="field border-t border-hair pt-2"
					>Comment to the student{#if response.read_at}<span class="small">&ensp;read {moment(response.read_at)}</span
						>{/if}<textarea class="input" rows="2" maxlength="1000" disabled={!shown.open} bind:value={shown.comment}
					></textarea></label
				>
				<div class="mt-1 flex flex-wrap items-center gap-1">
					<span class="small">Phrases</span>
					{#each shown.phrases as phrase (phrase.id)}<Button onclick={() => shown.phrase(phrase.text)}
							>{phrase.text.length > 34 ? `${phrase.text.slice(0, 32)} …` : phrase.text}</Button
						><Button
							kind="quiet"
							aria-label="Remove the phrase {phrase.text}"
							onclick={() => shown.dropPhrase(phrase.id)}>×</Button
						>{/each}
					{#if shown.comment.trim() && !shown.phrases.some((p) => p.text === shown.comment.trim())}<Button
							kind="quiet"
							onclick={() => shown.keepPhrase()}>Keep as a phrase</Button
						>{/if}
				</div>
			{:else}
				<p class="m-auto max-w-[340px] py-16 text-center text-[16px]">
					{shown.progress?.adjudication && !desk.settles
						? 'What is left waits for adjudication by a coordinator.'
						: shown.progress?.held
							? 'Others have the remaining responses open. What they leave comes back here after ten minutes.'
							: 'Nothing here waits for you.'}
					<span class="mt-4 block"><Button href="/scoring" kind="primary">Back to Scoring</Button></span>
				</p>
			{/if}
		</Panel>
		<div>
			<Panel label="Rubric" class="px-4 py-3">
				<Rubric {shown} />
				<p class="text-[14px]">
					{#if shown.code}<b>{desk.conditions.find((c) => c.code === shown.code)?.word}</b>{:else}<b
							class="tabular-nums">{shown.criteria.map((c) => c ?? '–').join(' + ')}</b
						>
						of {desk.maximum} points{/if}
				</p>
				{#if shown.open}
					<div class="mt-2 grid gap-1 border-t border-hair pt-2 text-[14px]">
						{#if response?.waits !== 'adjudication'}<Checkbox
								bind:checked={() => shown.second, (is) => shown.askSecond(is)}
								disabled={shown.busy}>Ask for a second opinion <Key>?</Key></Checkbox
							>{/if}
						{#if desk.settles}<Checkbox
								bind:checked={() => shown.truth, (is) => shown.asTruth(is)}
								disabled={shown.busy}>Pre-scored: every scorer gets it, blind</Checkbox
							>{/if}
					</div>
				{/if}
			</Panel>
			<Panel label="Or a condition code" class="mt-3 px-4 py-3">
				<h2 class="mb-2 text-[14px]">Or a condition code</h2>
				<div class="grid grid-cols-2 gap-1.5">
					{#each desk.conditions as c (c.code)}
						<Button
							class="justify-start text-left"
							aria-pressed={shown.code === c.code}
							disabled={!shown.open || shown.busy}
							title="{c.word}: {WORTH[c.worth]}"
							onclick={() => shown.condition(c.code)}><Key>{c.key}</Key> {c.word}</Button
						>
					{/each}
				</div>
				{#if shown.code}
					{@const c = desk.conditions.find((one) => one.code === shown.code)}
					<p class="small mt-2">“{c?.word}” {WORTH[c?.worth ?? 'zero']}.</p>
				{/if}
			</Panel>
			{#if response}
				<div class="mt-3 flex items-start gap-3">
					{#if shown.alerted.length}
						<p class="small border-l-4 border-vermilion pl-3" role="status">Sent to {shown.alerted.join(', ')}.</p>
					{:else if shown.alerting}
						<div
							class="sheet border-l-4 border-l-vermilion px-3 py-2 text-[14px]"
							role="alertdialog"
							aria-label="Safety alert"
						>
							This response goes now, with the student's name, to {desk.alerts_to.join(', ') ||
								'no one: no person is named'}.
							<span class="mt-2 flex gap-2"
								><Button kind="primary" disabled={shown.busy} onclick={() => shown.alert()}>Send the alert</Button
								><Button onclick={() => (shown.alerting = false)}>Cancel</Button></span
							>
						</div>
					{:else}
						<Button class="alarm flex-none" onclick={() => (shown.alerting = true)}><Key>!</Key> Safety alert</Button>
						<p class="small">
							Tells of harm? It goes at once, with the name, to {desk.alerts_to.join(', ') || 'no one yet'}.
						</p>
					{/if}
				</div>
			{/if}
		</div>
	</div>
{/if}

<style>
	.desk {
		display: grid;
		grid-template-columns: minmax(220px, 27%) minmax(0, 1fr) minmax(280px, 31%);
		gap: 12px;
		align-items: start;
	}
	@media (max-width: 1000px) {
		.desk {
			grid-template-columns: minmax(0, 1fr);
		}
	}
	:global(.btn.alarm) {
		color: var(--color-vermilion);
		border-color: var(--color-vermilion);
	}
</style>
