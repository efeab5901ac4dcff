<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import { api, said, type Schemas } from '$lib/api/client';
	import Select from '$lib/design/Select.svelte';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { whole } from '$lib/words/show';

	/** What a window asks for: rules that name students and a test. */
	let {
		window,
		rules,
		may,
		onchanged
	}: { window: string; rules: Schemas['RequirementLine'][]; may: boolean; onchanged: () => unknown } = $props();
	let choices = $state<Schemas['Choices'] | null>(null);
	let rule = $state({ form: '', who: '', part: '' });
	const parts = $derived(choices?.forms.find((f) => f.id === rule.form)?.parts ?? []);
	let told = $state('');
	let problem = $state('');

	async function adding() {
		choices ??= (await api.GET('/api/sessions/choices')).data ?? null;
	}

	async function add(event: SubmitEvent) {
		event.preventDefault();
		problem = told = '';
		try {
			const made = await api.POST('/api/participation/requirements', {
				body: {
					window,
					form: rule.form,
					rule: rule.who,
					part: rule.part === '' ? null : Number(rule.part),
					why: ''
				}
			});
			told = made.data?.says ?? '';
			rule = { form: '', who: '', part: '' };
			await onchanged();
		} catch (error) {
			problem = said(error);
		}
	}

	async function drop(id: string) {
		try {
			await api.DELETE('/api/participation/requirements/{requirement_id}', {
				params: { path: { requirement_id: id } }
			});
			await onchanged();
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<section class="sheet px-4 py-3" aria-labelledby="required">
	<h2 id="required" class="mb-1">Required tests</h2>
	<Notice text={problem} onclose={() => (problem = '')} />
	<p class="small mb-2">
		Students whom a rule names owe the test even before it is scheduled. Without rules, the classes that have a session
		owe it.
	</p>
	{#each rules as r (r.id)}
		<div class="flex items-center gap-3 border-t border-hair2 py-1.5 text-[14px]">
			<span class="flex-1"><b class="font-semibold">{r.test}</b>: {r.who}</span>
			{#if r.problem}<span class="notch">{r.problem}</span>{:else}<span class="small">{whole(r.students)} students</span
				>{/if}
			{#if may}<Ask
					label="Remove"
					quiet
					question="Remove this requirement? Sessions that are scheduled stay."
					yes="Remove"
					onyes={() => drop(r.id)}
				/>{/if}
		</div>
	{/each}
	{#if told}<p class="mt-1.5 text-[14px]" role="status">{told}</p>{/if}
	{#if may}
		<form class="mt-2 grid grid-cols-[1fr_1fr_auto] items-end gap-2" onsubmit={add} onfocusin={adding}>
			<label class="field"
				>Test
				<Select
					bind:value={rule.form}
					choices={(choices?.forms ?? []).map((f) => ({ value: f.id, label: f.name }))}
					placeholder="Choose a form"
				/>
			</label>
			{#if parts.length}<label class="field col-span-3"
					>Section<Select
						bind:value={rule.part}
						choices={[
							{ value: '', label: 'the whole test' },
							...parts.map((name, at) => ({ value: String(at), label: name }))
						]}
					/></label
				>{/if}
			<label class="field"
				>Students<input
					class="input"
					maxlength="400"
					placeholder="everyone in the grade"
					bind:value={rule.who}
				/></label
			>
			<Button type="submit" disabled={!rule.form}>Add</Button>
		</form>
	{/if}
</section>
