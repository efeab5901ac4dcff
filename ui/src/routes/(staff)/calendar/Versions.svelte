<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Table from '$lib/design/Table.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { Plan } from './plan.svelte';

	/** Earlier plans of the window beside the one at hand: what differs, whom it touches, and the way back. */
	let { plan, open = $bindable() }: { plan: Plan; open: boolean } = $props();
	let lines = $state.raw<Schemas['KeptPlan'][]>([]);
	let shown = $state.raw<Schemas['PlanComparison'] | null>(null);
	let name = $state('');
	let problem = $state('');
	const may = $derived(plan.board.may && plan.board.mine && !plan.working);
	const path = $derived({ plan: plan.id });

	$effect(() => {
		if (open)
			void work(async () => (lines = await body(api.GET('/api/planning/plans/{plan}/versions', { params: { path } }))));
		else shown = null;
	});

	async function work(go: () => Promise<unknown>) {
		problem = '';
		try {
			await go();
		} catch (error) {
			problem = said(error);
		}
	}

	const look = (version: string) =>
		work(async () => {
			const query = { path: { ...path, version } };
			shown = await body(api.GET('/api/planning/plans/{plan}/versions/{version}', { params: query }));
		});

	const keep = () =>
		work(async () => {
			lines = await body(api.POST('/api/planning/plans/{plan}/versions', { params: { path }, body: { name } }));
			name = '';
		});

	const drop = (version: string) =>
		work(async () => {
			const query = { path: { ...path, version } };
			lines = await body(api.DELETE('/api/planning/plans/{plan}/versions/{version}', { params: query }));
			shown = null;
		});

	async function restore(version: string) {
		if (await plan.restore(version)) open = false;
		else problem = plan.problem;
	}
</script>

<Dialog bind:open title="Compare plans" says="Earlier plans of this window, against the one on the board." wide>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if shown}
		<p class="mb-1 text-[16px] font-semibold">{shown.name}</p>
		<p class="mb-2 text-[14px]">{shown.finding}</p>
		<Table rows={shown.lines.length} empty="Nothing differs." within="max-h-[46vh]">
			<thead><tr><th>Test</th><th class="n">Students</th><th>Earlier plan</th><th>On the board</th></tr></thead>
			<tbody>
				{#each shown.lines as line, n (n)}
					<tr
						><td>{line.name}</td><td class="n">{line.students}</td><td>{line.before || 'no place'}</td><td
							>{line.after || 'no place'}</td
						></tr
					>
				{/each}
			</tbody>
		</Table>
		<div class="mt-3 flex justify-end gap-2">
			<Button onclick={() => (shown = null)}>Back</Button>
			{#if may}<Button kind="primary" onclick={() => shown && restore(shown.version)}>Use the earlier plan</Button>{/if}
		</div>
	{:else}
		<Table
			rows={lines.length}
			empty="No earlier plan is kept. One is kept each time you plan again, and whenever you keep the current one here."
		>
			<thead><tr><th>Plan</th><th>Against the board</th><th></th></tr></thead>
			<tbody>
				{#each lines as line (line.id)}
					<tr
						><td class="whitespace-nowrap">{line.name}</td><td>{line.says}</td><td class="n whitespace-nowrap"
							><Button kind="quiet" onclick={() => look(line.id)}>Compare</Button>{#if may}<Button
									kind="quiet"
									aria-label="Remove {line.name}"
									onclick={() => drop(line.id)}>Remove</Button
								>{/if}</td
						></tr
					>
				{/each}
			</tbody>
		</Table>
		{#if may}
			<div class="mt-4 flex items-end gap-2">
				<label class="field">Name<input class="input w-[260px]" bind:value={name} maxlength="60" /></label>
				<Button disabled={!name.trim()} onclick={keep}>Keep the current plan</Button>
			</div>
		{/if}
	{/if}
</Dialog>
