<script lang="ts">
	import { invalidate } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Select from '$lib/design/Select.svelte';
	import Table from '$lib/design/Table.svelte';
	import { day, percent } from '$lib/words/show';

	/** Rules are changed after a look at what that would change. */
	let { page }: { page: Schemas['RulesPage'] } = $props();
	// svelte-ignore state_referenced_locally
	let numbers = $state(
		Object.fromEntries(page.rules.map((r) => [r.name, r.share ? Math.round(r.value * 1000) / 10 : r.value]))
	);
	// svelte-ignore state_referenced_locally
	let counts = $state(Object.fromEntries(page.kinds.map((k) => [k.kind, k.counts])));
	// svelte-ignore state_referenced_locally
	let retakes = $state(page.retakes);
	let preview = $state.raw<Schemas['RulesPreview'] | null>(null);
	let problem = $state('');
	let busy = $state(false);
	const wish = $derived({
		rules: Object.fromEntries(
			page.rules.map((r) => [r.name, r.share ? (numbers[r.name] ?? 0) / 100 : (numbers[r.name] ?? 0)])
		),
		counts,
		retakes,
		revision: page.revision
	});
	const changed = $derived(
		retakes !== page.retakes ||
			page.kinds.some((k) => counts[k.kind] !== k.counts) ||
			page.rules.some((r) => Math.abs((wish.rules[r.name] ?? 0) - r.value) > 1e-9)
	);
	$effect(() => {
		void JSON.stringify(wish);
		preview = null;
	});
	const WORDS: Record<string, string> = { yes: 'counts', no: 'does not count', ask: 'asked after each session' };
	const RETAKES: Record<string, string> = {
		adds: 'Both count, one after the other',
		replaces: 'The retake counts, the first does not',
		better: 'The better of the two counts, standard by standard'
	};

	async function look(event: Event) {
		event.preventDefault();
		busy = true;
		try {
			preview = await body(
				api.POST('/api/mastery/rules/{framework}/preview', {
					params: { path: { framework: page.framework } },
					body: wish
				})
			);
			problem = '';
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
	async function change() {
		busy = true;
		try {
			await api.PUT('/api/mastery/rules/{framework}', { params: { path: { framework: page.framework } }, body: wish });
			problem = '';
			await invalidate('mastery:rules');
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
	function usual() {
		numbers = Object.fromEntries(page.rules.map((r) => [r.name, r.share ? Math.round(r.usual * 1000) / 10 : r.usual]));
		counts = Object.fromEntries(page.kinds.map((k) => [k.kind, k.usual]));
		retakes = 'adds';
	}
</script>

<form onsubmit={look}>
	<div class="grid gap-3 lg:grid-cols-[minmax(0,1fr)_minmax(0,420px)]">
		<Panel label="What each state asks" class="px-4 py-3">
			<h2 class="text-[15px]">What each state asks</h2>
			<p class="small mb-2">{page.asks}</p>
			<ul>
				{#each page.rules as r (r.name)}<li
						class="flex flex-wrap items-center gap-x-3 border-b border-hair2 py-1.5 last:border-0"
					>
						<label class="flex min-w-[260px] flex-1 items-center gap-3 text-[14px]"
							><span class="flex-1">{r.label}</span><span class="flex items-center gap-1"
								><input
									class="input w-[84px] text-right"
									type="number"
									step="any"
									bind:value={numbers[r.name]}
									disabled={!page.may_change}
								/><span class="w-[16px] text-[13px]">{r.share ? '%' : ''}</span></span
							></label
						>
						<span class="small basis-full">{r.says} Usually {r.share ? percent(r.usual) : r.usual}.</span>
					</li>{/each}
			</ul>
		</Panel>
		<div class="grid content-start gap-3">
			<Panel label="What counts as evidence" class="px-4 py-3">
				<h2 class="text-[15px]">What counts as evidence</h2>
				<ul class="mt-1">
					{#each page.kinds as k (k.kind)}<li
							class="flex items-center gap-2 border-b border-hair2 py-1 text-[14px] last:border-0"
						>
							<span class="flex-1">{k.label}</span>
							<Select
								small
								class="w-[190px]"
								label="Whether {k.label} count"
								bind:value={counts[k.kind]}
								disabled={!page.may_change}
								choices={page.count_ways
									.filter((w) => w !== 'ask' || k.may_ask)
									.map((w) => ({ value: w, label: WORDS[w] ?? w }))}
							/>
						</li>{/each}
				</ul>
				<p class="small mt-1">
					Single sessions can be decided otherwise under <a class="word" href="/mastery/evidence">What counts</a>.
				</p>
			</Panel>
			<Panel label="A test taken again" class="px-4 py-3">
				<h2 class="mb-1 text-[15px]">A test taken again</h2>
				<RadioGroup
					label="What a retake does"
					bind:value={retakes}
					disabled={!page.may_change}
					choices={page.retake_ways.map((w) => ({ value: w, label: RETAKES[w] ?? w }))}
				/>
				<p class="small mt-1">Every attempt stays in the run; what does not count is marked in the cell.</p>
			</Panel>
			{#if page.may_change}
				<Panel label="Before it is changed" class="px-4 py-3">
					<div class="flex flex-wrap gap-2">
						<Button type="submit" kind={preview ? 'plain' : 'primary'} disabled={!changed || busy}
							>See what would change</Button
						>
						<Button onclick={usual}>Usual rules</Button>
					</div>
					{#if problem}<p class="mt-2 text-[14px] text-vermilion" role="alert">{problem}</p>{/if}
					{#if preview}
						<p class="mt-2 text-[15px] font-semibold" role="status">{preview.finding}</p>
						<p class="small mt-1">{preview.asks}</p>
						{#if preview.moves.length}
							<Table>
								<thead><tr><th>Was</th><th>Would be</th><th class="n">Cells</th></tr></thead>
								<tbody
									>{#each preview.moves as m (`${m.before} ${m.after}`)}<tr
											><td>{m.before}</td><td>{m.after}</td><td class="n">{m.n}</td></tr
										>{/each}</tbody
								>
							</Table>
						{/if}
						<p class="mt-2"><Button kind="primary" disabled={busy} onclick={change}>Change the rules</Button></p>
					{/if}
				</Panel>
			{/if}
			{#if page.changed_by}<p class="small">Changed by {page.changed_by}, {day(page.changed_at ?? '')}.</p>{/if}
		</div>
	</div>
</form>
