<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { tellKeys } from '$lib/state/keys.svelte';
	import BankList from './BankList.svelte';
	import Checks from './Checks.svelte';
	import Companions from './Companions.svelte';
	import Correction from './Correction.svelte';
	import { Drag } from './drag.svelte';
	import FormItems from './FormItems.svelte';
	import Head from './Head.svelte';
	import Outlook from './Outlook.svelte';
	import Settings from './Settings.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
	const form = $derived(shown.form);
	const texts = $derived(new Map(shown.standards.map((s) => [s.code, s.text])));
	const most = $derived(Math.max(1, ...(form?.coverage ?? []).map((c) => Number(c.value))));
	const drag = new Drag();
	let panel = $state<'' | 'settings' | 'companions'>('');

	// a correction leads from one form to the next without leaving the page
	$effect(() => {
		void shown;
		panel = '';
	});

	tellKeys(
		[
			['Alt+↑ ↓', 'move the item'],
			['Alt+← →', 'move it to another section'],
			['s', 'swap the item for a similar one'],
			['Delete', 'remove the item']
		],
		() => shown.draft
	);
</script>

<Head {shown} bind:panel />
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if form && panel === 'settings' && shown.draft}
	{#key form.revision}
		<Settings {form} onkept={(kept) => (shown.kept(kept), (panel = ''))} onleave={() => (panel = '')} />
	{/key}
{:else if form && panel === 'companions'}
	<Companions {form} onleave={() => (panel = '')} />
{/if}
{#if form && shown.correction?.before_id && shown.correction.says}
	<Correction
		about={shown.correction}
		formId={form.id}
		published={form.published_at !== null}
		onmoved={() => shown.touch()}
	/>
{/if}
{#if form && shown.checks && shown.draft}<Checks {shown} />{/if}
{#if form}
	<div class="grid items-start gap-3 {shown.draft ? 'grid-cols-2' : 'grid-cols-[minmax(0,1fr)_300px]'}">
		{#if shown.draft}<BankList {shown} {drag} />{/if}
		<Panel label="The form" class="min-w-0">
			<Outlook {shown} {texts} />
			<FormItems {shown} {drag} />
		</Panel>
		{#if !shown.draft}
			<Panel label="Coverage" class="p-3">
				<div class="small mb-2">Items by main standard</div>
				{#each form.coverage as { name: code, value: n } (code)}
					<div class="mb-2 text-[12.5px]">
						<div class="flex items-center gap-2">
							<code class="w-[74px]">{code}</code><span
								class="h-3 bg-relief3"
								style:width="{(Number(n) / most) * 110}px"
							></span>{n}
						</div>
						<div class="text-ink2">{texts.get(code) ?? ''}</div>
					</div>
				{/each}
			</Panel>
		{/if}
	</div>
{/if}
