<script lang="ts">
	import { api, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { untrack } from 'svelte';

	/** Who scores an item, until when, which share is scored twice, and how far two scores may be apart. */
	let { line, onkept, onleave }: { line: Schemas['WaitingItem']; onkept: () => void; onleave: () => void } = $props();
	let scorers = $state(
		untrack(() =>
			line.scorers.filter((s) => s.given).map((s) => ({ id: s.id, name: s.name, due: s.due ?? '', classes: s.classes }))
		)
	);
	let share = $state(untrack(() => Math.round(100 * line.share)));
	let apart = $state<number | null>(untrack(() => line.apart));
	let problem = $state('');
	let busy = $state(false);

	async function keep(event: SubmitEvent) {
		event.preventDefault();
		busy = true;
		problem = '';
		try {
			await api.PUT('/api/scoring/items/{place}/plan', {
				params: { path: { place: line.place } },
				body: {
					window: line.window_id,
					tasks: scorers.map((s) => ({ scorer: s.id, due: s.due || null, classes: s.classes })),
					share: share / 100,
					apart
				}
			});
			onkept();
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<Dialog
	bind:open={() => true, (is) => is || onleave()}
	title="Who scores item {line.number}, {line.item}?"
	says="{line.form}, {line.window}: {line.responses} responses. Teachers can always score their own classes; scorers named here are dealt responses of all classes, or of some, from one queue, without names."
>
	<form onsubmit={keep}>
		{#each scorers as scorer, at (scorer.id)}
			<div class="mb-2 flex items-end gap-2">
				<b class="flex-1 pb-2 font-semibold">{scorer.name}</b>
				<Popover label="Classes whose responses {scorer.name} scores">
					{#snippet shown()}{scorer.classes.length
							? `${scorer.classes.length} of ${line.to_give.length} classes`
							: 'all classes'}{/snippet}
					<p class="small mb-1">Responses of these classes; of all where none is chosen.</p>
					<Checkboxes
						bind:values={scorer.classes}
						choices={line.to_give.map((k) => ({ value: k.id, label: k.name }))}
					/>
				</Popover>
				<DateField label="Due" bind:value={scorer.due} />
				<Button
					kind="quiet"
					onclick={() => (scorers = scorers.filter((_, n) => n !== at))}
					aria-label="Remove {scorer.name}">Remove</Button
				>
			</div>
		{/each}
		<PersonPick
			kind="staff"
			label="Add a scorer"
			but={scorers.map((s) => s.id)}
			onpick={(p) => (scorers = [...scorers, { id: p.id, name: p.name, due: '', classes: [] }])}
		/>
		<div class="mt-3 grid grid-cols-2 gap-3">
			<label class="field"
				>Scored twice, percent<input class="input w-24" type="number" min="0" max="100" bind:value={share} /></label
			>
			<label class="field"
				>Points two scores may be apart<input
					class="input w-24"
					type="number"
					min="0"
					max="100"
					step="0.5"
					placeholder="any"
					value={apart ?? ''}
					oninput={(e) => (apart = e.currentTarget.value ? Number(e.currentTarget.value) : null)}
				/></label
			>
		</div>
		<p class="small mt-1">
			Which responses are scored twice is drawn by chance; the second scorer does not see the first score. What is
			further apart waits for adjudication by a coordinator.
		</p>
		{#if problem}<p class="mt-3 border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
		<div class="mt-4 flex justify-end gap-2">
			<Button onclick={onleave}>Cancel</Button>
			<Button type="submit" kind="primary" disabled={busy}>Save</Button>
		</div>
	</form>
</Dialog>
