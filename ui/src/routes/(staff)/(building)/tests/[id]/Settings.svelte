<script lang="ts">
	import { kindOfTest } from '$lib/words/kinds';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { onMount, untrack } from 'svelte';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { percent } from '$lib/words/show';

	/** What the test is called, what kind it is and how it is sat. Kept as one, against the revision that was seen. */
	let {
		form,
		onkept,
		onleave
	}: { form: Schemas['FormDetail']; onkept: (form: Schemas['FormDetail']) => void; onleave: () => void } = $props();
	const TOOLS = {
		calculator: 'calculator',
		scientific: 'scientific calculator',
		sketch: 'sketch pad',
		ruler: 'ruler',
		protractor: 'protractor',
		highlighter: 'highlighter',
		crossing_out: 'crossing out',
		notes: 'notes',
		read_aloud: 'read aloud'
	} as const;
	let kinds = $state<Schemas['KindOut'][]>([]);
	let problem = $state('');
	let draws = $state<Schemas['FormDraws'] | null>(null);
	let title = $state(untrack(() => form.title));
	let kind = $state(untrack(() => form.kind));
	let unit = $state(untrack(() => form.unit));
	let s = $state(untrack(() => structuredClone($state.snapshot(form.settings))));
	const same = $derived(kinds.find((k) => k.name === kind)?.same ?? false);
	const change = $derived({
		revision: form.revision,
		title,
		kind,
		unit,
		settings: { ...s, draw: same ? null : s.draw }
	});

	$effect(() => {
		void body(api.GET('/api/building/kinds')).then((found) => (kinds = found));
	});

	onMount(() => void look());

	function tool(name: keyof typeof TOOLS, on: boolean) {
		s.tools = on ? [...(s.tools ?? []), name] : (s.tools ?? []).filter((t) => t !== name);
	}

	/** What draws of this pool would be like, before anything is kept. */
	async function look() {
		problem = '';
		draws = null;
		if (!s.draw || same) return;
		try {
			draws = await body(
				api.POST('/api/building/forms/{form_id}/draws', { params: { path: { form_id: form.id } }, body: change })
			);
		} catch (error) {
			problem = said(error);
		}
	}

	async function keep(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			onkept(
				await body(
					api.PUT('/api/building/forms/{form_id}/settings', { params: { path: { form_id: form.id } }, body: change })
				)
			);
		} catch (error) {
			problem = said(error);
		}
	}

	const low = $derived(draws?.shares[0] ?? 0);
	const high = $derived(draws?.shares.at(-1) ?? 0);
	const bins = $derived.by(() => {
		const found = Array.from({ length: 40 }, () => 0);
		for (const share of draws?.shares ?? []) found[Math.min(39, Math.floor(share * 40))]! += 1;
		return found;
	});
	const most = $derived(Math.max(1, ...bins));
</script>

{#snippet minutes(label: string, empty: string, value: number | null | undefined, set: (to: number | null) => void)}
	<label class="field"
		>{label}<input
			class="input w-28"
			type="number"
			min="1"
			max="600"
			placeholder={empty}
			value={value ?? ''}
			oninput={(e) => set(e.currentTarget.value ? Number(e.currentTarget.value) : null)}
		/></label
	>
{/snippet}

<form class="sheet mb-3 p-4" onsubmit={keep} aria-label="Settings">
	<div class="grid grid-cols-3 gap-x-6 gap-y-3">
		<div class="flex flex-col gap-3">
			<label class="field">Title for students<input class="input" bind:value={title} required maxlength="120" /></label>
			<label class="field"
				>Kind<Select
					bind:value={kind}
					choices={[
						{ value: '', label: 'not set' },
						...kinds.map((k) => ({ value: k.name, label: kindOfTest(k.name) }))
					]}
				/></label
			>
			<label class="field"
				>Unit of the pacing guide<input class="input" bind:value={unit} maxlength="120" placeholder="none" /></label
			>
			<label class="field"
				>Instructions, read before the test<textarea class="input" rows="2" maxlength="2000" bind:value={s.instructions}
				></textarea></label
			>
			<Checkbox bind:checked={s.evidence}>results count as evidence for standards</Checkbox>
		</div>
		<div class="flex flex-col gap-3">
			{@render minutes('Time limit in minutes', 'none', s.minutes, (to) => (s.minutes = to))}
			{@render minutes(
				'Earliest submission, minutes after the start',
				'any time',
				s.submit_after,
				(to) => (s.submit_after = to)
			)}
			<label class="field"
				>Navigation<Select
					bind:value={s.movement}
					choices={[
						{ value: 'free', label: 'any item at any time' },
						{ value: 'one', label: 'one item at a time' }
					]}
				/></label
			>
			{#if s.movement === 'one'}<Checkbox bind:checked={s.back} disabled={s.feedback === 'now'}
					>students can go back</Checkbox
				>{/if}
			<label class="field"
				>Correct answers are shown<Select
					bind:value={s.feedback}
					choices={[
						{ value: 'release', label: 'when results are released' },
						{ value: 'hand_in', label: 'after submitting' },
						{ value: 'now', label: 'after each answer' }
					]}
					onchange={() => s.feedback === 'now' && ([s.movement, s.back] = ['one', false])}
				/></label
			>
			{#if s.feedback !== 'release' && kind !== 'mirror'}
				<Checkbox bind:checked={s.early}
					><span
						>show correct answers even while other classes are still testing<span class="small block"
							>{s.early
								? 'Students could pass answers on to classes that test later.'
								: 'Correct answers wait until every session of this test in the window is closed.'}</span
						></span
					></Checkbox
				>
			{/if}
			<label class="field"
				>Attempts<input class="input w-20" type="number" min="1" max="10" bind:value={s.attempts} /></label
			>
			{#if (s.attempts ?? 1) > 1}<p class="small">
					The first attempt counts; later attempts are practice and are not reported.
				</p>{/if}
		</div>
		<div class="flex flex-col gap-3">
			<fieldset>
				<legend class="field">Tools</legend>
				<div class="grid grid-cols-2 gap-x-3">
					{#each Object.entries(TOOLS) as [name, word] (name)}<Checkbox
							checked={s.tools?.includes(name as keyof typeof TOOLS)}
							onchange={(on) => tool(name as keyof typeof TOOLS, on)}>{word}</Checkbox
						>{/each}
				</div>
			</fieldset>
			<Checkbox bind:checked={s.hints}>hints, where an item has them</Checkbox>
			<Checkbox bind:checked={s.large_print}>large print for all students</Checkbox>
			<Checkbox bind:checked={s.breaks_stop}>the clock stops while a student is in the restroom</Checkbox>
			<Checkbox bind:checked={s.timed_sections}
				><span
					>each section ends by its own minutes<span class="small block"
						>{s.timed_sections
							? 'Students cannot go back to a section that is over. Minutes are set in the blueprint.'
							: 'Minutes of sections are shown to plan by.'}</span
					></span
				></Checkbox
			>
			<Checkbox bind:checked={s.practice}>offer a practice question before the test</Checkbox>
			{#if !same}
				<Checkbox
					checked={!!s.draw}
					onchange={(on) => ((s.draw = on ? { count: 2, by: 'standard', each: 'student', limit: 0.05 } : null), look())}
					>draw from these items as a pool</Checkbox
				>
				{#if s.draw}
					<div class="rounded border border-hair p-2 text-[13.5px]">
						<div class="flex flex-wrap items-center gap-2">
							<input
								class="input mt-0 w-16"
								type="number"
								min="1"
								max="100"
								aria-label="How many"
								bind:value={s.draw.count}
								onchange={look}
							/>
							of each
							<Select
								label="Draw from each"
								choices={[
									{ value: 'standard', label: 'standard' },
									{ value: 'topic', label: 'topic' },
									{ value: 'unit', label: 'unit' },
									{ value: 'all', label: 'pool' }
								]}
								bind:value={s.draw.by}
								onchange={look}
								class="mt-0 w-28"
							/>
						</div>
						<div class="mt-2 flex flex-wrap items-center gap-2">
							<Select
								label="Draw"
								choices={[
									{ value: 'student', label: 'for each student' },
									{ value: 'session', label: 'one for all' }
								]}
								bind:value={s.draw.each}
								class="mt-0 w-40"
							/>
							within
							<input
								class="input mt-0 w-16"
								type="number"
								min="1"
								max="50"
								placeholder="–"
								aria-label="Limit in percent"
								value={s.draw.limit ? Math.round(100 * s.draw.limit) : ''}
								onchange={(e) => (
									s.draw && (s.draw.limit = e.currentTarget.value ? Number(e.currentTarget.value) / 100 : null),
									look()
								)}
							/> %
						</div>
						{#if draws}
							<p class="small mt-2">{draws.says}</p>
							{#if draws.target !== null}
								<svg
									width="100%"
									viewBox="0 0 200 44"
									class="mt-1 block max-w-[280px]"
									role="img"
									aria-label="Expected share of the points over many draws, {percent(low)} to {percent(high)}"
								>
									{#each bins as n, at (at)}{#if n}<rect
												x={at * 5}
												width="4.4"
												y={32 - (n / most) * 30}
												height={(n / most) * 30}
												fill="var(--color-relief3)"
											/>{/if}{/each}
									<path d="M0 32.500H200" stroke="var(--color-ink2)" /><path
										d="M{draws.target * 200} 0V36"
										stroke="var(--color-ink)"
										stroke-dasharray="2 2"
									/>
									<text x="0" y="42" font-size="8" fill="var(--color-ink2)">0%</text><text
										x="200"
										y="42"
										font-size="8"
										text-anchor="end"
										fill="var(--color-ink2)">100% expected</text
									>
								</svg>
							{/if}
						{/if}
					</div>
				{/if}
			{/if}
		</div>
	</div>
	{#if problem}<p class="mt-3 border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
	<div class="mt-3 flex justify-end gap-2 border-t border-hair pt-3">
		<Button kind="quiet" onclick={onleave}>Cancel</Button><Button type="submit" kind="primary">Save settings</Button>
	</div>
</form>
