<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Table from '$lib/design/Table.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Select from '$lib/design/Select.svelte';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import ScoreOutlook from '$lib/parts/ScoreOutlook.svelte';
	import StandardCode from '$lib/parts/StandardCode.svelte';
	import { newJob } from '$lib/parts/imports';
	import { percent } from '$lib/words/show';

	let {
		blueprint,
		ontake
	}: { blueprint: Schemas['BlueprintView']; ontake: (nearest: Schemas['Nearby']['content']) => void } = $props();

	let forms = $state(2);
	let anchor = $state(0);
	let unsat = $state<number | null>(null);
	let flagged = $state(false);
	let window = $state('');
	let windows = $state<Schemas['WindowOut'][]>([]);
	let fixed = $state<Record<string, number>>({});
	let excluded = $state<string[]>([]);
	let found = $state<Schemas['AssemblyOut'] | null>(null);
	let job = $state('');
	let how = $state('');
	let problem = $state('');
	let notKept = $state(''); // said where the button is
	let name = $state('');
	let title = $state('');

	onMount(async () => {
		name = free(blueprint.name);
		try {
			windows = (await body(api.GET('/api/calendar'))).windows;
			const today = new Date().toISOString().slice(0, 10);
			window = windows.find((w) => w.end >= today)?.id ?? '';
		} catch {
			/* without a calendar every window will do */
		}
	});

	/** The first set has the blueprint's name, later ones are numbered. */
	function free(base: string) {
		if (!blueprint.forms.length) return base;
		for (let n = 1; ; n++) {
			const tried = `${base} again${n > 1 ? ` ${n}` : ''}`;
			if (!blueprint.forms.some((f) => f.name.startsWith(`${tried} `))) return tried;
		}
	}

	async function find() {
		const mine = (job = newJob());
		problem = how = '';
		const timer = setInterval(async () => {
			try {
				how = (await body(api.GET('/api/building/jobs/{job}', { params: { path: { job: mine } } }))).what;
			} catch {
				/* not begun yet, or over */
			}
		}, 300);
		try {
			found = await body(
				api.POST('/api/building/blueprints/{blueprint_id}/assemble', {
					params: { path: { blueprint_id: blueprint.id } },
					body: {
						forms,
						anchor: forms > 1 ? anchor : 0,
						overlap: 0,
						job: mine,
						seconds: 20,
						unsat,
						flagged,
						once_a_window: window !== '',
						window_id: window || null,
						fixed: Array.from({ length: forms }, (_, f) => Object.keys(fixed).filter((id) => fixed[id] === f)),
						excluded
					}
				})
			);
		} catch (error) {
			problem = said(error);
		} finally {
			clearInterval(timer);
			job = how = '';
		}
	}

	async function stop() {
		await api.DELETE('/api/building/jobs/{job}', { params: { path: { job } } });
	}

	async function keep() {
		if (!found) return;
		notKept = '';
		try {
			const made = await body(
				api.POST('/api/building/blueprints/{blueprint_id}/keep', {
					params: { path: { blueprint_id: blueprint.id } },
					body: {
						name,
						title,
						forms: found.forms.map((form) =>
							form.items.map((item) => ({ version_id: item.version_id, part: item.part }))
						)
					}
				})
			);
			await goto(made.forms.length > 1 ? `/tests/families/${made.family_id}` : `/tests/${made.forms[0]}`);
		} catch (error) {
			notKept = said(error);
		}
	}

	function pin(id: string, f: number) {
		if (fixed[id] === f) delete fixed[id];
		else fixed[id] = f;
	}
</script>

<Panel label="Find forms" class="mb-3 p-4">
	<div class="mb-3 flex flex-wrap items-end gap-3">
		<label class="field"
			>Forms<input class="input w-20 text-right" type="number" min="1" max="8" bind:value={forms} /></label
		>
		<label class="field"
			>Items all share<input
				class="input w-24 text-right"
				type="number"
				min="0"
				bind:value={anchor}
				disabled={forms < 2}
			/></label
		>
		<label class="field"
			>New items, at most<input
				class="input w-28 text-right"
				type="number"
				min="0"
				placeholder="few"
				bind:value={unsat}
			/></label
		>
		<label class="field"
			>For the window<Select
				bind:value={window}
				choices={[{ value: '', label: 'any' }, ...windows.map((w) => ({ value: w.id, label: w.name }))]}
				class="w-44"
			/></label
		>
		<Checkbox bind:checked={flagged} class="mb-1.5">include items flagged as a problem</Checkbox>
		{#if job}<Button onclick={stop}>Stop</Button>{:else}<Button kind="primary" onclick={find}
				>{found ? 'Find again' : 'Find'}</Button
			>{/if}
		<span class="small flex-1" role="status">{job ? how || 'beginning' : ''}</span>
		{#if excluded.length || Object.keys(fixed).length}<span class="small"
				>{Object.keys(fixed).length} fixed, {excluded.length} excluded
				<Button kind="quiet" class="min-h-[26px]" onclick={() => ((fixed = {}), (excluded = []))}>Undo</Button></span
			>{/if}
	</div>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if found}
		<h2 class="mb-2">{found.finding}</h2>
		{#if found.clashes.length}
			<ul class="mb-2 list-disc pl-5">
				{#each found.clashes as clash (clash.says)}
					<li>
						{clash.says}{clash.available !== null && clash.needed !== null
							? `: ${clash.needed} wanted, ${clash.available} there`
							: ''}
					</li>
				{/each}
			</ul>
			<p class="small mb-2">
				{found.irreducible
					? 'Give up any one of them, and the others can be met.'
					: 'The time was over before every demand was tried; some of these may not matter.'}
			</p>
			{#if found.nearest}
				<div class="flex items-center gap-3 border-t border-hair pt-2">
					<p class="flex-1">Closest feasible blueprint: {found.nearest.gives_up.join('; ')}.</p>
					<Button onclick={() => found?.nearest && ontake(found.nearest.content)}>Insert</Button>
				</div>
			{/if}
		{:else}
			{#if found.forms.length > 1 && found.deviation !== null}
				<p class="small mb-3">
					Largest deviation {found.deviation.toFixed(3)} points from the common mean; no set of forms could have less than
					{(found.bound ?? 0).toFixed(3)}. Marks: ◆ on all forms.
				</p>
			{/if}
			<div class="grid gap-3" style:grid-template-columns="repeat({Math.min(4, found.forms.length)}, minmax(0, 1fr))">
				{#each found.forms as form, f (f)}
					<section class="min-w-0 rounded border border-hair" aria-label="Form {'ABCDEFGH'[f]}">
						<div class="border-b border-hair p-3">
							<h3 class="mb-2 font-semibold">
								{found.forms.length > 1 ? `Form ${'ABCDEFGH'[f]}` : 'The form'}: {form.predicted.items} items, {form
									.predicted.points} points
							</h3>
							<ScoreOutlook predicted={form.predicted} narrow={found.forms.length > 1} />
						</div>
						<Table within="max-h-[340px]" class="text-[12.5px]">
							<thead><tr><th>Item</th><th>Standard</th><th class="n">Correct</th><th></th></tr></thead>
							<tbody>
								{#each form.items as item (item.version_id)}
									<tr>
										<td class="whitespace-nowrap"
											><span class="inline-block w-3.5 text-petrol">{item.common ? '◆' : ''}</span><code
												>{item.code}</code
											>{item.stimulus ? ` · ${item.stimulus}` : ''}</td
										>
										<td><StandardCode code={item.standard} /></td>
										<td class="n">{item.p === null ? 'not used yet' : percent(item.p)}</td>
										<td class="whitespace-nowrap text-right">
											<Button
												kind="quiet"
												class="min-h-[24px] px-1.5"
												aria-pressed={fixed[item.version_id] === f}
												aria-label="Fix {item.code} on this form"
												title="stays on this form"
												onclick={() => pin(item.version_id, f)}>{fixed[item.version_id] === f ? '●' : '○'}</Button
											>
											<Button
												kind="quiet"
												class="min-h-[24px] px-1.5"
												disabled={excluded.includes(item.version_id)}
												aria-label="Exclude {item.code}"
												title="excluded next time"
												onclick={() => (excluded = [...excluded, item.version_id])}>×</Button
											>
										</td>
									</tr>
								{/each}
							</tbody>
						</Table>
					</section>
				{/each}
			</div>
			<form class="mt-3 flex items-end gap-3 border-t border-hair pt-3" onsubmit={(e) => (e.preventDefault(), keep())}>
				<label class="field"
					>Name (staff only)<input class="input w-64" bind:value={name} required maxlength="100" /></label
				>
				<label class="field"
					>Title for students<input class="input w-64" placeholder={name} bind:value={title} maxlength="120" /></label
				>
				<Button type="submit" kind="primary"
					>Save {found.forms.length > 1 ? `${found.forms.length} drafts` : 'draft'}</Button
				>
			</form>
			<Notice text={notKept} onclose={() => (notKept = '')} />
		{/if}
	{/if}
</Panel>
