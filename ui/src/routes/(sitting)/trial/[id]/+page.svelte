<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Run from '$lib/sitting/Run.svelte';
	import { Trial } from '$lib/sitting/trial.svelte';
	import type { PageProps } from './$types';

	/** A form as a student has it, for staff: what they answer is told of and forgotten. */
	let { data }: PageProps = $props();
	const id = $derived(data.id);
	let seed = $derived(data.seed);
	const trial = $derived(new Trial(id, seed));
</script>

{#key seed}
	<Run sitting={trial} trial home="/tests/{id}">
		{#snippet lead()}
			{#if trial.about}
				<div
					class="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-hair bg-paper px-4 py-1 text-[14px] md:px-6 md:py-2"
				>
					<b class="min-w-0 flex-1 truncate md:flex-none">Preview of {trial.about.name}</b>
					<span class="hidden min-w-0 flex-1 text-ink2 md:block"
						>{trial.about.says.join('; ')}{trial.about.expected !== null
							? `; ${Math.round(100 * trial.about.expected)}% expected for this draw`
							: ''}</span
					>
					{#if trial.paper && 'speechSynthesis' in window}<Checkbox bind:checked={trial.paper.read_aloud}
							>read aloud</Checkbox
						>{/if}
					{#if trial.about.seed !== null}<Button kind="quiet" class="min-h-[28px]" onclick={() => (seed += 1)}
							>Show new draw</Button
						>{/if}
					<Button class="min-h-[28px]" href="/tests/{id}">Back to the form</Button>
				</div>
			{/if}
		{/snippet}
	</Run>
{/key}
