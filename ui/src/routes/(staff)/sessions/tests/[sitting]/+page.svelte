<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Key from '$lib/design/Key.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import AsAsked from '$lib/parts/AsAsked.svelte';
	import Markup from '$lib/parts/Markup.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import Sketch from '$lib/parts/Sketch.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { GAVE_WORDS, moment, percent, STATE_WORDS } from '$lib/words/show';
	import Strip from './Strip.svelte';
	import type { PageProps } from './$types';

	/** The whole test of one student, item by item: what they gave beside what is right. */
	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	const test = $derived(shown.data);
	const item = $derived(shown.open);
	const name = $derived(test ? staff.name(test.name, test.alias) : '');
	const printed = $state({ right: true, whole: false });
	const paper = $derived(
		`/api/quality/attempts/${test?.sitting}/print.pdf?right=${printed.right}&whole=${printed.whole}&veiled=${staff.veiled}`
	);
	/** Minutes and seconds as one says them. */
	function spent(seconds: number): string {
		const whole = Math.round(seconds);
		return whole < 60 ? `${whole} s` : `${Math.floor(whole / 60)} min ${whole % 60} s`;
	}
</script>

<svelte:window onkeydown={(event) => shown.key(event, staff.letterKeys)} />
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if test}
	<div class="small mb-1">
		<a class="word" href="/sessions/{test.session}">{test.klass}</a>&ensp;{test.form}{test.submitted_at
			? `, submitted ${moment(test.submitted_at)}${test.minutes ? `, ${test.minutes} minutes` : ''}`
			: ''}
	</div>
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of={name} title="{name}, {test.form}" station="Sessions" class="flex-1" live>{test.finding}</Finding>
		<Popover label="Print">
			{#snippet shown()}Print …{/snippet}
			<div class="grid gap-2 text-[14px]">
				<Checkbox bind:checked={printed.right}>with right answers</Checkbox>
				<Checkbox bind:checked={printed.whole}>everyone in this class</Checkbox>
				<Button kind="primary" href={paper} target="_blank">Open PDF</Button>
			</div>
		</Popover>
		<Button disabled={!test.previous} onclick={() => shown.to(test.previous)}>Previous <Key>P</Key></Button>
		<Button kind="primary" disabled={!test.next} onclick={() => shown.to(test.next)}>Next student <Key>N</Key></Button>
	</div>
	<div class="whole">
		<Panel label="Class" class="max-[1000px]:hidden">
			<h2 class="px-3 pt-2 text-[14px]">{test.klass}</h2>
			<ul class="py-1 text-[13.5px]">
				{#each test.classmates as mate (mate.sitting)}
					<li>
						<a
							class="flex justify-between gap-2 px-3 py-[3px] {mate.sitting === test.sitting
								? 'bg-wash font-semibold shadow-[inset_3px_0_0_var(--color-petrol)]'
								: ''}"
							href="/sessions/tests/{mate.sitting}?item={item?.number ?? ''}"
							aria-current={mate.sitting === test.sitting ? 'page' : undefined}
							><span class="truncate">{staff.name(mate.name, mate.alias)}</span><span class="flex-none text-ink2"
								>{mate.total === null ? STATE_WORDS[mate.state] : `${mate.total}${mate.waits ? ' so far' : ''}`}</span
							></a
						>
					</li>
				{/each}
			</ul>
		</Panel>
		<div class="min-w-0">
			{#if test.note}<p class="small mb-2 border-l-4 border-petrol pl-3">{test.note}</p>{/if}
			<Panel label="Items" class="px-4 py-3"
				><Strip items={test.items} at={shown.at} onpick={(at) => shown.go(at)} /></Panel
			>
			{#if item}
				<Panel label="Item {item.number}" class="mt-3 px-5 py-4">
					<div class="mb-3 flex flex-wrap items-baseline gap-3 border-b border-hair pb-2">
						<h2 class="text-[16px]">Item {item.number}</h2>
						{#each item.standards as code (code)}<StandardCode {code} />{/each}
						<span class="small ml-auto"
							>{item.earned === null
								? GAVE_WORDS[item.gave]
								: `${item.earned} of ${item.points} ${item.points === 1 ? 'point' : 'points'}, ${GAVE_WORDS[item.gave]}`}</span
						>
						{#if test.corrects}<Button
								kind="quiet"
								class="min-h-[26px]"
								href="/scoring/correct/{item.place}?window={test.window_id}&kind=score&sitting={test.sitting}"
								>Change score …</Button
							>{/if}
					</div>
					<div class="item">
						<div class="min-w-0">
							<AsAsked shown={item.shown} stimulus={item.stimulus} answer={item.raw} name="own" height="400px" />
							<div class="mt-3 grid grid-cols-2 gap-3">
								<div class="rounded border border-hair border-l-[6px] border-l-relief2 px-3 py-2">
									<p class="small">{staff.veiled ? 'The student' : test.name.split(' ')[0]} answered</p>
									<p class="text-[20px] font-semibold break-words whitespace-pre-wrap">{item.answer || 'nothing'}</p>
									{#if item.alike}<p class="small">
											{item.alike === 1 ? 'no one else' : `${item.alike} of ${item.of}`} gave this answer
										</p>{/if}
								</div>
								{#if item.right || item.key}<div class="rounded border border-hair px-3 py-2">
										<p class="small">Correct</p>
										<div class="text-[20px] font-semibold">
											{#if item.letter && item.key.length === 1}{item.key}{:else if item.right}<Markup
													html={item.right}
													inline
												/>{:else}{item.key}{/if}
										</div>
										{#if item.letter && item.key.length === 1 && item.right}<p class="small">
												<Markup html={item.right} inline />
											</p>{/if}
									</div>{/if}
							</div>
							{#if item.shows && item.gave !== 'right'}<p class="mt-3 text-[15px]">
									<b>What this shows:</b>
									{item.shows}
								</p>{/if}
						</div>
						<dl class="facts">
							<dt>Class</dt>
							<dd>
								{item.p === null ? 'no one answered' : `${percent(item.p)} of the points`}{#if item.p_ci95}<span
										class="small block"
										>95% interval {percent(item.p_ci95[0] ?? null)} to {percent(item.p_ci95[1] ?? null)}</span
									>{/if}
							</dd>
							{#if item.seconds !== null}<dt>Time</dt>
								<dd>
									{spent(item.seconds)}{#if item.usual !== null}<span class="small block"
											>usual here {spent(item.usual)}</span
										>{/if}
								</dd>{/if}
							{#if item.before.length}<dt>Before</dt>
								<dd>{item.before.join(' → ')} → {item.answer}</dd>{/if}
							{#if item.reason}<dt>Reason</dt>
								<dd>“{item.reason}”</dd>{/if}
							{#if item.notes}<dt>Notes</dt>
								<dd class="whitespace-pre-wrap">{item.notes}</dd>{/if}
							{#if item.sketch}<dt>Sketch</dt>
								<dd><Sketch value={item.sketch} /></dd>{/if}
						</dl>
					</div>
					{#each item.comments.filter((c) => !c.mine) as comment (comment.by)}<p class="small mt-3">
							<b>{comment.by}:</b>
							{comment.text}{comment.read_at ? ` (read ${moment(comment.read_at)})` : ''}
						</p>{/each}
					<form
						class="mt-3 flex items-end gap-2 border-t border-hair pt-3"
						onsubmit={(event) => {
							event.preventDefault();
							void shown.say();
						}}
					>
						<label class="field flex-1"
							>Comment to {staff.veiled
								? 'the student'
								: test.name.split(' ')[0]}{#if item.comments.find((c) => c.mine)?.read_at}<span class="small"
									>&ensp;read {moment(item.comments.find((c) => c.mine)?.read_at ?? '')}</span
								>{/if}<input class="input" maxlength="1000" bind:value={shown.comment} /></label
						>
						<Button
							type="submit"
							disabled={shown.busy || shown.comment === (item.comments.find((c) => c.mine)?.text ?? '')}
							>Save comment</Button
						>
					</form>
				</Panel>
			{/if}
			<p class="small mt-2">
				<Key>←</Key>
				<Key>→</Key> items&ensp;<Key>N</Key>
				<Key>P</Key> the same item of the next or previous student
			</p>
		</div>
	</div>
{/if}

<style>
	.whole {
		display: grid;
		grid-template-columns: 216px minmax(0, 1fr);
		gap: 12px;
		align-items: start;
	}
	.item {
		display: grid;
		grid-template-columns: minmax(0, 1fr) 250px;
		gap: 24px;
	}
	@media (max-width: 1000px) {
		.whole,
		.item {
			grid-template-columns: minmax(0, 1fr);
		}
	}
	.facts {
		display: grid;
		grid-template-columns: 76px minmax(0, 1fr);
		gap: 8px 10px;
		align-content: start;
		font-size: 14px;
	}
	dt {
		color: var(--color-ink2);
	}
</style>
