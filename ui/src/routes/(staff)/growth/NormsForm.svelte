<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Panel from '$lib/design/Panel.svelte';
	import Notice from '$lib/parts/Notice.svelte';

	/** A norm table with what it is: which version, of whom, out of which source. */
	let { measure, onkept }: { measure: Schemas['MeasureLine']; onkept: () => void } = $props();
	let wish = $state({ name: '', version: '', source: '', population: '', norms: '', correlations: '' });
	let problem = $state('');
	let busy = $state(false);

	let service = $state<Schemas['TestService'] | null>(null);

	/** Norm files of the test service, put into the fields to be looked at. */
	async function fetchNorms() {
		busy = true;
		try {
			service = await body(api.GET('/api/growth/service'));
			for (const file of service.files.filter((f) => f.kind === 'norms')) {
				const { text } = await body(api.POST('/api/growth/service/text', { body: { path: file.path } }));
				if (text.includes('from_week')) wish.correlations = text;
				else wish.norms = text;
			}
			problem = service.problem || (service.address ? '' : 'No test service is set up.');
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}

	async function keep(event: Event) {
		event.preventDefault();
		busy = true;
		try {
			await body(
				api.POST('/api/growth/measures/{measure}/norms', { params: { path: { measure: measure.id } }, body: wish })
			);
			onkept();
		} catch (error) {
			problem = said(error);
		}
		busy = false;
	}
</script>

<Panel label="Norms of {measure.name}" class="px-5 py-4">
	<Notice text={problem} onclose={() => (problem = '')} />
	<form class="grid gap-3 md:grid-cols-2" onsubmit={keep}>
		<label class="field">Name<input class="input" required maxlength="120" bind:value={wish.name} /></label>
		<label class="field">Version<input class="input" required maxlength="40" bind:value={wish.version} /></label>
		<label class="field"
			>Source, such as the report and table<input
				class="input"
				required
				maxlength="300"
				bind:value={wish.source}
			/></label
		>
		<label class="field"
			>Population in words<input class="input" required maxlength="300" bind:value={wish.population} /></label
		>
		<label class="field"
			>Norms: subject, grade, week, and mean and sd, or percentile and score<textarea
				class="input font-mono text-[12.5px]"
				rows="5"
				required
				placeholder={'subject,grade,week,mean,sd\n' + measure.subject + ',7,2,240.1,14.6'}
				bind:value={wish.norms}></textarea></label
		>
		<label class="field"
			>Correlations, if they are published: subject, grade, from_week, to_week, r<textarea
				class="input font-mono text-[12.5px]"
				rows="5"
				placeholder={'subject,grade,from_week,to_week,r\n' + measure.subject + ',7,2,14,0.86'}
				bind:value={wish.correlations}></textarea></label
		>
		<p class="small md:col-span-2">
			Without correlations the table says where a student stands; what a start lets expect is then taken from the other
			students.
		</p>
		<div class="flex gap-2">
			<Button type="submit" kind="primary" disabled={busy}>Save norms</Button>
			<Button disabled={busy} onclick={fetchNorms}>Fetch from the test service</Button>
		</div>
	</form>
</Panel>
