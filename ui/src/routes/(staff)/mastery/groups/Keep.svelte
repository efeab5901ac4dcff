<script lang="ts">
	import { api, body, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import DateField from '$lib/design/DateField.svelte';

	/** A group is kept with what it is for and a day to look again; it stands in People, and on each member's runs. */
	let { people, standard, name }: { people: string[]; standard: string; name: string } = $props();
	let open = $state(false);
	let title = $state('');
	let purpose = $state('');
	let check = $state('');
	let problem = $state('');
	let made = $state('');
	const count = $derived(people.length === 1 ? '1 student' : `${people.length} students`);

	function begin() {
		[open, problem, made, title, purpose, check] = [true, '', '', name.slice(0, 80), '', ''];
	}
	async function go(event: Event) {
		event.preventDefault();
		try {
			const kept = await body(
				api.POST('/api/mastery/groups', {
					body: { name: title, members: people, standard, purpose, check_on: check || null }
				})
			);
			[open, made] = [false, kept.id];
		} catch (error) {
			problem = said(error);
		}
	}
</script>

{#if !open}
	<span class="inline-flex flex-wrap items-center gap-2"
		><Button class="min-h-[26px]" onclick={begin} disabled={!people.length}>Keep this group</Button>{#if made}<span
				class="text-[13px]"
				role="status">{count} in <a class="word" href="/people/groups/{made}">{title}</a></span
			>{/if}</span
	>
{:else}
	<form
		class="my-1 grid gap-2 rounded-[4px] border border-relief3 bg-wash px-3 py-2 text-[13.5px]"
		aria-label="Keep a group of {people.length}"
		onsubmit={go}
	>
		<label class="field">Group name<input class="input" bind:value={title} maxlength="80" required /></label>
		<label class="field"
			>What it is for<input
				class="input"
				bind:value={purpose}
				maxlength="200"
				placeholder="such as number lines, Tuesdays"
			/></label
		>
		<DateField label="Look again on" bind:value={check} />
		<div class="flex gap-2">
			<Button type="submit" kind="primary" disabled={!title.trim()}>Keep</Button>
			<Button onclick={() => (open = false)}>Cancel</Button>
		</div>
		{#if problem}<p class="text-vermilion" role="alert">{problem}</p>{/if}
	</form>
{/if}
