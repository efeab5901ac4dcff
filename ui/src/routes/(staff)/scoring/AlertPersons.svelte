<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import PersonPick from '$lib/parts/PersonPick.svelte';
	import { onMount } from 'svelte';

	/** Whom safety alerts about a school's students go to. */
	let { onleave }: { onleave: () => void } = $props();
	let schools = $state.raw<Schemas['AlertSchool'][]>([]);
	let problem = $state('');

	onMount(async () => {
		try {
			schools = await body(api.GET('/api/scoring/alert-persons'));
		} catch (error) {
			problem = said(error);
		}
	});

	async function name(school: Schemas['AlertSchool'], persons: string[]) {
		problem = '';
		try {
			schools = await body(
				api.PUT('/api/scoring/alert-persons/{school}', {
					params: { path: { school: school.school_id } },
					body: { persons }
				})
			);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Dialog
	bind:open={() => true, (is) => is || onleave()}
	title="Who receives safety alerts?"
	says="A response that tells of harm goes to these persons at once, with the student's name, and to no one else."
>
	{#each schools as school (school.school_id)}
		<section class="mb-4" aria-label={school.school}>
			<h3 class="text-[15px] font-semibold">{school.school}</h3>
			{#each school.persons as person (person.id)}
				<div class="flex items-center gap-2">
					<span class="flex-1">{person.name}</span>
					<Button
						kind="quiet"
						aria-label="Remove {person.name}"
						onclick={() =>
							name(
								school,
								school.persons.filter((p) => p.id !== person.id).map((p) => p.id)
							)}>Remove</Button
					>
				</div>
			{:else}<p class="small">No one is named yet; until then: {school.fallback.join(', ') || 'no one'}.</p>{/each}
			<PersonPick
				kind="staff"
				label="Add a person for {school.school}"
				but={school.persons.map((p) => p.id)}
				onpick={(p) => name(school, [...school.persons.map((one) => one.id), p.id])}
			/>
		</section>
	{/each}
	{#if problem}<p class="border-l-4 border-vermilion pl-3 text-[13.5px]" role="alert">{problem}</p>{/if}
	<div class="mt-4 flex justify-end"><Button kind="primary" onclick={onleave}>Done</Button></div>
</Dialog>
