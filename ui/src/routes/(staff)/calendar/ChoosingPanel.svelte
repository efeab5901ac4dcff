<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Progress from '$lib/design/Progress.svelte';
	import type { Plan } from './plan.svelte';

	/** While teachers choose: how far they are, who has not, and filling in the rest. */
	let { plan, choosing }: { plan: Plan; choosing: Schemas['Choosing'] } = $props();
	const may = $derived(plan.board.may && plan.board.mine && !plan.working);
</script>

<Panel class="mb-2 px-4 py-3" label="Teachers choose">
	<div class="flex flex-wrap items-center gap-3">
		<div class="min-w-[320px] flex-1">
			<Progress done={choosing.chosen} total={choosing.tests} says="Tests of classes with a block" />
		</div>
		{#if may}
			{#if choosing.waiting.length}<Button
					disabled={choosing.reminded}
					title={choosing.reminded ? 'They were reminded already.' : undefined}
					onclick={() => plan.remind()}>{choosing.reminded ? 'Reminded' : `Remind ${choosing.waiting.length}`}</Button
				>{/if}
			<Button onclick={() => plan.closeChoosing()}>End choosing</Button>
			<Button kind="primary" onclick={() => plan.fillIn()}>Plan the rest</Button>
		{/if}
	</div>
	{#if choosing.waiting.length}<p class="mt-2 text-[13.5px] text-ink2">
			<b class="font-semibold text-ink">Not chosen yet:</b>
			{choosing.waiting.map((one) => one.name).join(', ')}
		</p>{/if}
</Panel>
