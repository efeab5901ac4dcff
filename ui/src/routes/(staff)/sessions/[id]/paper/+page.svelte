<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import ImportPanel from '$lib/parts/ImportPanel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import type { PageProps } from './$types';

	/** Answers of a test on paper, typed in: one key an answer, in the order of the form. */
	let { data }: PageProps = $props();
	const page = $derived(data.page);
	const sheet = $derived(page.sheet);
	let bringing = $state(false);
	let form = $state<HTMLFormElement>();

	function next(from: HTMLElement) {
		const fields = [...(form?.querySelectorAll<HTMLElement>('input, textarea') ?? [])].filter(
			(field) => !field.hasAttribute('disabled')
		);
		const at = fields.indexOf(from);
		(fields[at + 1] ?? form?.querySelector<HTMLElement>('button[type=submit]'))?.focus();
	}

	function keys(event: KeyboardEvent & { currentTarget: HTMLInputElement }) {
		if (event.key !== 'Enter' && event.key !== 'ArrowDown') return;
		event.preventDefault();
		next(event.currentTarget);
	}

	const named = (at: number, name: string) => (staff.veiled ? `student ${at + 1}` : name);
</script>

<Notice text={page.problem} onclose={() => (page.problem = '')} />
{#if page.page}
	<div class="small mb-1"><a class="word" href="/sessions/{page.session}">{page.page.klass}</a></div>
	<Finding of="Answers from paper" station="Sessions" beside={page.page.title} live
		>{page.done ? `${page.done} ` : ''}{page.page.finding}</Finding
	>
	{#if page.page.attempts.length}
		<p class="small mt-1 flex flex-wrap gap-x-4">
			<Button kind="quiet" aria-expanded={bringing} onclick={() => (bringing = !bringing)}>Import a file …</Button>
			<span class="self-center"
				>The sheet to fill in: <a class="word" href="/api/scoring/paper/{page.session}/sheet.xlsx" download>XLSX</a>,
				<a class="word" href="/api/scoring/paper/{page.session}/sheet.csv" download>CSV</a></span
			>
		</p>
		{#if bringing}<div class="mt-2">
				<ImportPanel
					kind="answers"
					of={page.session}
					accept=".csv,.tsv,.txt,.xlsx"
					hint="A row for each student: the column student with the student's number, then 1, 2, 3 … as the paper numbers them. Letters as printed, words and numbers as written; an empty cell is no answer."
					paste={'student\t1\t2\t3\n4711\tB\tA\t12.5'}
					onapplied={() => void page.load()}
				/>
			</div>{/if}
		{#if page.mixed?.says}
			<Panel label="Mixed-up booklets" class="mt-3 border-l-4 border-l-petrol px-5 py-3 text-[14px]">
				<p><b>{page.mixed.says}</b></p>
				<ul class="mt-1">
					{#each page.odd as one (one.sitting)}<li>
							{staff.veiled ? 'a student' : one.name}: {one.earned} of {one.possible} on {one.form}, {one.other.earned} of
							{one.other.possible} on {one.other.form}
						</li>{/each}
				</ul>
				<div class="mt-2">
					<Ask
						label="Score these as {page.odd[0]?.other.form} …"
						question="Their marks count at the same places of the other form. It can be undone under Scoring, Corrections."
						reason="Why"
						yes="Score as the other form"
						onyes={(why) => page.scoreAs(why)}
					/>
				</div>
			</Panel>
		{/if}
		<div class="entry mt-3">
			<Panel label="Attempts on paper" class="py-2">
				<ul class="text-[14px]">
					{#each page.page.attempts as attempt, at (attempt.sitting)}
						<li>
							<Button
								kind="quiet"
								class="w-full justify-between {attempt.sitting === sheet?.sitting ? 'font-semibold' : ''}"
								aria-pressed={attempt.sitting === sheet?.sitting}
								onclick={() => void page.open(attempt.sitting)}
								><span class="truncate">{named(at, attempt.name)}</span><span class="small"
									>{attempt.done ? `${attempt.entered} in` : 'waits'}</span
								></Button
							>
						</li>
					{/each}
				</ul>
			</Panel>
			{#if sheet}
				<Panel label="Answers" class="px-5 py-4">
					<form bind:this={form} onsubmit={(e) => (e.preventDefault(), void page.keep())}>
						<div class="mb-3 flex flex-wrap items-center gap-4 border-b border-hair pb-2">
							<h2 class="text-[16px]">
								{staff.veiled ? 'This student' : sheet.name}<span class="small ml-3"
									>{sheet.form}{page.first ? ', typed once more' : ''}</span
								>
							</h2>
							<Checkbox bind:checked={page.twice} disabled={!!page.first}>type each twice</Checkbox>
						</div>
						{#if page.differs.length}<p class="mb-2 text-vermilion" role="alert">
								The two are not the same at {page.differs.join(', ')}; nothing was kept. Look at the paper again.
							</p>{/if}
						<div class="answers">
							{#each sheet.items as item (item.place)}
								<label class="flex items-center gap-2 {page.differs.includes(item.number) ? 'text-vermilion' : ''}">
									<span class="w-6 flex-none text-right tabular-nums">{item.number}</span>
									{#if item.way === 'none'}<span class="small">not by keys</span>{:else}<input
											class="input min-h-[34px] {item.way === 'text' ? 'w-full' : 'w-[86px] uppercase'}"
											aria-label="Question {item.number}{item.letters ? `, ${item.letters}` : ''}"
											placeholder={item.letters.toLowerCase()}
											autocomplete="off"
											bind:value={page.typed[item.place]}
											oninput={(e) => {
												if (page.whole(item, e.currentTarget.value)) next(e.currentTarget);
											}}
											onkeydown={keys}
										/>{/if}
								</label>
							{/each}
						</div>
						<div class="mt-4 flex flex-wrap items-center gap-3 border-t border-hair pt-3">
							<p class="small flex-1">
								{page.left ? `${page.left} without an answer` : 'All have an answer'}. What an answer earns is decided
								by the same key as for devices.
							</p>
							<Button type="submit" kind="primary" disabled={page.busy}
								>{page.twice && !page.first ? 'Type them once more' : 'Keep, and the next student'}</Button
							>
						</div>
					</form>
				</Panel>
			{/if}
		</div>
	{/if}
{/if}

<style>
	.entry {
		display: grid;
		gap: 12px;
		grid-template-columns: 220px minmax(0, 1fr);
		align-items: start;
	}
	.answers {
		display: grid;
		gap: 6px 22px;
		grid-template-columns: repeat(auto-fill, minmax(200px, 1fr));
	}
	@media (max-width: 800px) {
		.entry {
			grid-template-columns: minmax(0, 1fr);
		}
	}
</style>
