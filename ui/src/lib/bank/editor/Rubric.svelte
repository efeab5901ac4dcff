<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Select from '$lib/design/Select.svelte';
	import type { Scoring } from './kinds';

	/** Criteria by levels; the points of the part are what the best levels add up to. */
	let { scoring, onchange }: { scoring: Scoring; onchange: () => void } = $props();
	function set(act: () => void) {
		act();
		scoring.points = scoring.rubric.reduce((sum, c) => sum + Math.max(0, ...c.levels.map((l) => l.points)), 0);
		onchange();
	}
</script>

<p class="small mb-1">Rubric: {scoring.points} {scoring.points === 1 ? 'point' : 'points'} in all</p>
{#each scoring.rubric as criterion, at (at)}
	<div class="mb-2 rounded border border-hair p-2">
		<div class="flex gap-2">
			<input
				class="input mt-0 flex-1 font-semibold"
				maxlength="400"
				aria-label="Criterion {at + 1}"
				value={criterion.title}
				oninput={(e) => set(() => (criterion.title = e.currentTarget.value))}
			/>
			<Button kind="quiet" disabled={scoring.rubric.length < 2} onclick={() => set(() => scoring.rubric.splice(at, 1))}
				>Remove</Button
			>
		</div>
		{#each criterion.levels as level, n (n)}
			<div class="mt-1 flex gap-2">
				<input
					class="input mt-0 w-[64px]"
					type="number"
					min="0"
					max="100"
					step="0.5"
					aria-label="Points of level {n + 1}"
					value={level.points}
					onchange={(e) => set(() => (level.points = Number(e.currentTarget.value) || 0))}
				/>
				<textarea
					class="input mt-0 flex-1 text-[13px]"
					rows="1"
					maxlength="2000"
					placeholder="Level description"
					aria-label="Description of level {n + 1}"
					value={level.text}
					oninput={(e) => set(() => (level.text = e.currentTarget.value))}></textarea>
				<button
					type="button"
					class="min-w-[24px] cursor-pointer disabled:text-edge-soft"
					aria-label="Remove level {n + 1}"
					disabled={criterion.levels.length < 3}
					onclick={() => set(() => criterion.levels.splice(n, 1))}>×</button
				>
			</div>
		{/each}
		<Button
			kind="quiet"
			class="px-0"
			onclick={() =>
				set(() => criterion.levels.push({ points: Math.max(...criterion.levels.map((l) => l.points)) + 1, text: '' }))}
			>Add level</Button
		>
	</div>
{/each}
<Button
	onclick={() => set(() => scoring.rubric.push({ title: '', levels: [0, 1].map((points) => ({ points, text: '' })) }))}
	>Add criterion</Button
>
<details class="mt-2">
	<summary class="small min-h-[24px] cursor-pointer">Anchor papers ({scoring.exemplars.length})</summary>
	{#each scoring.exemplars as exemplar, at (at)}
		<div class="mt-2 rounded border border-hair p-2">
			<textarea
				class="input mt-0"
				rows="3"
				maxlength="8000"
				aria-label="Anchor paper {at + 1}"
				value={exemplar.answer}
				oninput={(e) => set(() => (exemplar.answer = e.currentTarget.value))}></textarea>
			<div class="mt-1 flex flex-wrap items-end gap-2">
				{#each scoring.rubric as criterion, n (n)}<label class="field w-[110px] truncate"
						>{criterion.title || `criterion ${n + 1}`}<Select
							value={exemplar.points[n] ?? 0}
							choices={criterion.levels.map((l) => ({ value: l.points, label: `${l.points}` }))}
							onchange={(to) =>
								set(() => {
									exemplar.points = scoring.rubric.map((_, i) => (i === n ? Number(to) : (exemplar.points[i] ?? 0)));
								})}
						/></label
					>{/each}
				<label class="field flex-1"
					>Why<input
						class="input"
						maxlength="400"
						value={exemplar.why}
						oninput={(e) => set(() => (exemplar.why = e.currentTarget.value))}
					/></label
				>
				<Button kind="quiet" onclick={() => set(() => scoring.exemplars.splice(at, 1))}>Remove</Button>
			</div>
		</div>
	{/each}
	<Button
		class="mt-2"
		onclick={() =>
			set(() =>
				scoring.exemplars.push({ answer: '', points: scoring.rubric.map((c) => c.levels[0]?.points ?? 0), why: '' })
			)}>Add anchor paper</Button
	>
</details>
