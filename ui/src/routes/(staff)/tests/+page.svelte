<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { onMount } from 'svelte';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day } from '$lib/words/show';

	let data = $state<Schemas['FormsOut'] | null>(null);
	let problem = $state('');
	let making = $state(false);
	let draft = $state({ name: '', title: '', subject: '', grade: '' });

	onMount(async () => {
		try {
			data = await body(api.GET('/api/forms'));
			making = data.forms.length === 0 && staff.may('tests.write');
		} catch (error) {
			problem = said(error);
		}
	});

	async function make(event: SubmitEvent) {
		event.preventDefault();
		problem = '';
		try {
			const form = await body(api.POST('/api/forms', { body: draft }));
			await goto(`/tests/${form.id}`);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<svelte:head><title>Tests · Bildung</title></svelte:head>

<div class="mb-3 flex items-start gap-4">
	<h1 class="flex-1">{data?.finding ?? ''}</h1>
	{#if staff.may('tests.write')}<button class="btn" aria-expanded={making} onclick={() => (making = !making)}>Make a form</button>{/if}
</div>
<Notice text={problem} onclose={() => (problem = '')} />
{#if making}
	<form class="sheet mb-3 grid grid-cols-[1.3fr_1.3fr_1fr_90px_auto] items-end gap-3 p-4" onsubmit={make}>
		<label class="field">Name among staff<input class="input" bind:value={draft.name} required maxlength="120" /></label>
		<label class="field">Title for students<input class="input" bind:value={draft.title} placeholder={draft.name} maxlength="120" /></label>
		<label class="field">Subject<input class="input" bind:value={draft.subject} /></label>
		<label class="field">Grade<input class="input" bind:value={draft.grade} /></label>
		<button class="btn primary">Choose its items</button>
	</form>
{/if}
{#if data?.forms.length}
	<section {@attach scrollable} class="sheet frozen">
		<table>
			<thead><tr><th>Form</th><th>Title for students</th><th>Subject</th><th>Grade</th><th class="n">Items</th><th>State</th><th class="n">Sessions</th></tr></thead>
			<tbody>
				{#each data.forms as form (form.id)}
					<tr tabindex="-1" data-row onclick={() => goto(`/tests/${form.id}`)}>
						<td><a class="word" href="/tests/{form.id}">{form.name}</a></td>
						<td>{form.title}</td>
						<td>{form.subject}</td>
						<td>{form.grade}</td>
						<td class="n">{form.items}</td>
						<td>{form.published_at ? `published ${day(form.published_at.slice(0, 10))}` : 'draft'}</td>
						<td class="n">{form.sessions}</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{/if}
