<script lang="ts">
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	/** What a new school does first, step by step. */
	let { data }: PageProps = $props();
	const steps = $derived(data.steps);
	const next = $derived(steps?.steps.findIndex((s) => !s.done) ?? -1);
</script>

<Notice text={data.problem} />
{#if steps}
	<Finding of="Getting started" class="mb-4 max-w-[760px]">{steps.finding}</Finding>
	<ol class="sheet max-w-[760px]">
		{#each steps.steps as step, at (step.name)}
			<li class="flex items-start gap-4 border-b border-hair2 px-5 py-4 last:border-b-0">
				<span
					class="mt-0.5 grid size-7 flex-none place-items-center rounded-full border-[1.5px] text-[13px] font-semibold {step.done
						? 'border-relief3 bg-relief5'
						: at === next
							? 'border-petrol text-petrol'
							: 'border-hair text-ink2'}"
					aria-hidden="true">{step.done ? '✓' : at + 1}</span
				>
				<div class="min-w-0 flex-1">
					<h2 class={step.done || at === next ? '' : 'text-ink2'}>{step.name}</h2>
					<p class="small">{step.done ? `Done: ${step.done}.` : step.why}</p>
				</div>
				{#if step.may}<Button kind={at === next ? 'primary' : 'plain'} href={step.path}
						>{step.done ? 'View' : at === next ? 'Start' : 'Open'}</Button
					>{/if}
			</li>
		{/each}
	</ol>
{/if}
