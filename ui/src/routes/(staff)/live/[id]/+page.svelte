<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import LiveBars from '$lib/parts/LiveBars.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { scrollable } from '$lib/parts/scrollable';
	import Stimulus from '$lib/sitting/question/Stimulus.svelte';
	import Question from '$lib/sitting/question/Question.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { percent } from '$lib/words/show';
	import type { PageProps } from './$types';

	/** A round as its teacher runs it: ask, let them answer, show, talk, ask again. */
	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	const page = $derived(shown.data);
	const now = $derived(shown.current);
	const ADVICE: Record<string, string> = {
		go_on: 'Most have it: a short explanation, then go on.',
		talk: 'Divided: let them talk to a neighbor, then ask again.',
		explain: 'Few have it: explain first, then ask again.'
	};
	const WAYS: Record<string, string> = { school: '', home: 'at home', device: 'response device' };
	$effect(() => shown.follow());
</script>

<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if page}
	<div class="small mb-1"><a class="word" href="/people/classes/{page.class_id}">{page.klass}</a></div>
	<div class="mb-3 flex flex-wrap items-start gap-2">
		<Finding of="Live round" title="Live round, {page.klass}" class="flex-1" live>{page.finding}</Finding>
		{#if !page.ended}
			<Button href="/screen/{page.id}" target="_blank" rel="noopener">Open the projector view</Button>
			<Button onclick={() => (shown.ending = true)}>End the round</Button>
		{/if}
	</div>
	{#if page.ended}
		<Panel label="Summary">
			<Table>
				<thead
					><tr><th class="n">No.</th><th>Question</th><th class="n">Answers</th><th class="n">Correct</th></tr></thead
				>
				<tbody>
					{#each page.summary as line (line.number)}<tr
							><td class="n">{line.number}</td><td>{line.what}{line.again ? ', asked again' : ''}</td><td class="n"
								>{line.answered}</td
							><td class="n">{line.share === null ? '' : `${line.right}, ${percent(line.share)}`}</td></tr
						>{:else}<tr><td colspan="4" class="text-ink2">No question was asked.</td></tr>{/each}
				</tbody>
			</Table>
			<p class="small px-4 py-2">
				{page.evidence ? 'These results count toward standards.' : 'These results do not count toward standards.'}
			</p>
		</Panel>
	{:else}
		<div class="grid grid-cols-[minmax(0,1fr)_330px] items-start gap-3 max-[900px]:grid-cols-1">
			<div class="flex flex-col gap-3">
				{#if now}
					<Panel label="The question" class="px-5 py-4">
						<div class="mb-3 flex flex-wrap items-center gap-2">
							<h2 class="flex-1">
								Question {now.question.number}{now.question.again ? ', asked again' : ''}{#if now.code}<span
										class="ml-2 font-normal text-ink2">{now.code}</span
									>{/if}
							</h2>
							<b class="text-[20px] tabular-nums">{now.answered} of {page.joined}</b><span class="small">answered</span>
						</div>
						<div class="flex flex-wrap gap-2">
							{#if now.showing === 'counting'}<Button
									kind="primary"
									disabled={shown.busy}
									onclick={() => shown.show('answers')}>Show the answers</Button
								>{:else if now.showing === 'answers' && now.question.shown}<Button
									kind="primary"
									disabled={shown.busy}
									onclick={() => shown.show('right')}>Show the correct answer</Button
								>{/if}
							{#if now.showing !== 'counting'}<Button disabled={shown.busy} onclick={shown.again}>Ask again</Button
								><Button kind="quiet" disabled={shown.busy} onclick={() => shown.show('counting')}
									>Hide the answers</Button
								>{/if}
						</div>
						{#if now.advice}<p class="mt-2 border-l-4 border-petrol pl-3 text-[15px]">{ADVICE[now.advice]}</p>{/if}
						{#if now.strongest_wrong}<p class="mt-2 text-[15px]">
								<span class="text-ink2">Behind the most chosen wrong answer:</span>
								{now.strongest_wrong}
							</p>{/if}
						<div class="mt-4 grid gap-5 {now.before.length ? 'sm:grid-cols-2' : ''}">
							{#if now.before.length}<LiveBars bars={now.before} title="Before" />{/if}
							<LiveBars
								bars={now.bars}
								title={now.before.length ? 'After' : 'Answers, seen by you only until you show them'}
								notes
							/>
						</div>
						<div class="mt-4 border-t border-hair pt-3">
							{#if now.question.words}<p class="text-[17px]">{now.question.words}</p>{/if}
							{#if now.question.stimulus}<div {@attach scrollable} class="mb-3 max-h-[220px] overflow-auto">
									<Stimulus stimulus={now.question.stimulus} />
								</div>{/if}
							{#if now.question.shown}<div {@attach scrollable} class="max-h-[320px] overflow-auto">
									<div inert>
										<Question shown={now.question.shown} answer="" name="asked" onanswer={() => {}} />
									</div>
								</div>{/if}
						</div>
						{#if now.harder.length || now.easier.length}<div class="mt-4 border-t border-hair pt-3 text-[15px]">
								<span class="small">Go on with the same standard:</span>
								<div class="mt-1 flex flex-wrap gap-2">
									{#each now.harder as s (s.item)}<Button onclick={() => shown.ask(s.item)}
											>Harder: {s.code}, {percent(s.p)}</Button
										>{/each}
									{#each now.easier as s (s.item)}<Button onclick={() => shown.ask(s.item)}
											>Easier: {s.code}, {percent(s.p)}</Button
										>{/each}
								</div>
							</div>{/if}
					</Panel>
				{/if}
				<Panel label="Ask" class="px-5 py-4">
					<h2 class="mb-2">{now ? 'Next question' : 'First question'}</h2>
					<form class="flex flex-wrap items-end gap-2" onsubmit={shown.search}>
						<label class="field min-w-[240px] flex-1"
							>Find in the bank<input
								class="input"
								bind:value={shown.finding}
								placeholder="code, words, or a standard"
							/></label
						>
						<Button type="submit" disabled={shown.busy}>Find</Button>
						<Button onclick={() => (shown.aloud = !shown.aloud)} aria-pressed={shown.aloud}>Say one aloud</Button>
					</form>
					{#if shown.aloud}
						<form class="mt-3 flex flex-wrap items-end gap-2" onsubmit={shown.askAloud}>
							<label class="field min-w-[240px] flex-1"
								>Words on the screen, or nothing<input class="input" maxlength="300" bind:value={shown.words} /></label
							>
							<label class="field w-[110px]"
								>Options, 2 to 8<input class="input" inputmode="numeric" required bind:value={shown.options} /></label
							>
							<Button type="submit" kind="primary" disabled={shown.busy}>Ask</Button>
						</form>
					{/if}
					{#each shown.found as item (item.item)}
						<div class="flex items-center gap-3 border-t border-hair2 py-1.5 text-[14px]">
							<span class="min-w-0 flex-1 truncate"><b class="font-semibold">{item.code}</b> {item.words}</span>
							{#if item.p !== null}<span class="small">{percent(item.p)}</span>{/if}
							<Button onclick={() => shown.ask(item.item)}>Ask</Button>
						</div>
					{:else}{#if shown.searched}<p class="mt-2 text-[14px]">
								No item that can be asked fits. Items of secure tests are left out.
							</p>{/if}{/each}
				</Panel>
			</div>
			<div class="flex flex-col gap-3">
				<Panel class="px-4 py-3 text-[14px]">
					<div class="small">Class code</div>
					<div class="font-mono text-[26px] tracking-[0.14em]">{page.code || '–'}</div>
					<p class="small">Students enter it with their sign-in code, and their device follows the round.</p>
					<div class="mt-2 border-t border-hair2 pt-2">
						{#if shown.hub.state === 'on'}{shown.hub.devices} response devices are connected.{#if shown.hub.lost.length}
								Out of reach: {shown.hub.lost.join(', ')}.{/if}
						{:else}<Button disabled={shown.hub.state === 'connecting'} onclick={shown.connectHub}
								>Connect response devices</Button
							>{#if shown.hub.state === 'none'}<p class="small mt-1">
									No hub answers on this machine. It is started with ./bildung hub.
								</p>{/if}{/if}
						{#if shown.unknown.length}<p class="mt-1 border-l-4 border-vermilion pl-2">
								Devices that belong to no student here: {shown.unknown.join(', ')}.
								<a class="word" href="/people/classes/{page.class_id}">Assign them</a>
							</p>{/if}
					</div>
				</Panel>
				<Panel label="Students">
					<Table within="max-h-[480px]">
						<thead><tr><th>Student</th><th>Answer</th></tr></thead>
						<tbody>
							{#each page.students as s, at (s.person)}
								<tr>
									<td class={s.here ? '' : 'text-ink2'}
										>{staff.name(s.name, at)}{#if WAYS[s.way]}<span class="small block leading-tight"
												>{WAYS[s.way]}</span
											>{/if}</td
									>
									<td
										>{#if s.answer}<b class="font-semibold">{s.answer}</b>{s.right === null
												? ''
												: s.right
													? ', right'
													: ''}
										{:else if s.stuck}<b class="font-semibold">no answer yet</b>
										{:else if !s.here}<span class="text-ink2">{s.way ? 'no connection' : 'not here'}</span>{/if}</td
									>
								</tr>
							{/each}
						</tbody>
					</Table>
				</Panel>
			</div>
		</div>
	{/if}
	<Dialog bind:open={shown.ending} title="End the round?" says="Devices go back to their own pages; the summary stays.">
		<Checkbox bind:checked={shown.evidence}>Results count toward standards</Checkbox>
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={() => (shown.ending = false)}>Cancel</Button>
			<Button kind="primary" disabled={shown.busy} onclick={shown.end}>End</Button>
		</div>
	</Dialog>
{/if}
