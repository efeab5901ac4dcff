<script lang="ts">
	import { kindOfTest } from '$lib/words/kinds';
	import Finding from '$lib/design/Finding.svelte';
	import Button from '$lib/design/Button.svelte';
	import { sure } from '$lib/design/questions.svelte';
	import { goto } from '$app/navigation';
	import { staff } from '$lib/state/staff.svelte';
	import type { FormPage } from './form.svelte';
	import Security from './Security.svelte';

	/** What the form is called, what it holds, and what can be done with it. panel: which of its panels is open. */
	let { shown, panel = $bindable() }: { shown: FormPage; panel: '' | 'settings' | 'companions' } = $props();
	const form = $derived(shown.form);
	const correction = $derived(shown.correction);
	const counted = (n: number, one: string) => `${n} ${n === 1 ? one : `${one}s`}`;
	const toggle = (which: 'settings' | 'companions') => (panel = panel === which ? '' : which);

	async function correct() {
		const title = `Correct ${form?.name}?`;
		const says = 'This form stays as it is. A new version is created, which you can change and publish in its place.';
		if (!(await sure({ title, says, yes: 'Create version', safe: true }))) return;
		const made = await shown.correct();
		if (made) await goto(`/tests/${made}`);
	}
</script>

{#if form}
	<div class="small mb-1">
		<a class="word" href="/tests">Tests</a> · {[form.subject, form.grade && `grade ${form.grade}`]
			.filter(Boolean)
			.join(', ')}
	</div>
	<div class="mb-3 flex items-start gap-4">
		<Finding of="Test form" title={form.name} class="flex-1">
			{form.name}: {counted(form.items.length, 'item')}, {counted(form.points, 'point')}, {counted(
				form.standards,
				'standard'
			)}{form.published_at ? '; published and locked.' : '; a draft.'}
		</Finding>
		<span class="small mt-1.5" role="status">{shown.saving}</span>
		{#if shown.draft}
			<Button
				kind="primary"
				disabled={!form.items.length}
				aria-expanded={shown.checks !== null}
				onclick={() => shown.review()}>Publish</Button
			>
		{:else if form.published_at && staff.may(form.kind === 'benchmark' || form.secured ? 'people.settle' : 'sessions.plan')}
			<Button kind="primary" href="/sessions?plan={form.id}">Schedule session</Button>
		{/if}
	</div>
	<div class="mb-3 flex flex-wrap items-center gap-x-2 gap-y-1">
		<p class="small min-w-0 flex-1">
			{form.kind ? `${kindOfTest(form.kind)}: ` : ''}{form.says.join('; ')}{#if form.family_id}; {form.role ||
					'companion'} of
				<a class="word" href="/tests/families/{form.family_id}">{form.family}</a>{/if}{#if form.mirror_id}; a mirror of <a
					class="word"
					href="/tests/{form.mirror_id}">another test</a
				>{/if}{#if correction?.after_id}; corrected by <a class="word" href="/tests/{correction.after_id}"
					>{correction.after}</a
				>{/if}
		</p>
		{#if shown.draft}
			<Button kind="quiet" class="min-h-[30px]" aria-expanded={panel === 'settings'} onclick={() => toggle('settings')}
				>Settings</Button
			>
		{/if}
		<Button kind="quiet" class="min-h-[30px]" href="/trial/{form.id}">Preview as a student</Button>
		<Button kind="quiet" class="min-h-[30px]" href="/tests/{form.id}/paper">Print and export</Button>
		{#if staff.may('tests.write')}
			<Security {form} onkept={(kept) => shown.kept(kept)} />
			<Button
				kind="quiet"
				class="min-h-[30px]"
				aria-expanded={panel === 'companions'}
				disabled={!form.items.length}
				onclick={() => toggle('companions')}>Add companion</Button
			>
			{#if form.published_at && !correction?.after_id}
				<Button kind="quiet" class="min-h-[30px]" onclick={correct}>Correct form</Button>
			{/if}
		{/if}
	</div>
{/if}
