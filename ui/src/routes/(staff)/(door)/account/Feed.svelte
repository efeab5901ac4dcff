<script lang="ts">
	import { api, body, said } from '$lib/api/client';
	import Button from '$lib/design/Button.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import { dateTime } from '$lib/words/show';

	/** The secret address under which a calendar program reads one's sessions. */
	let { zone }: { zone: string } = $props();
	let since = $state<string | null>(null);
	let address = $state('');
	let problem = $state('');

	async function work(what: () => Promise<unknown>) {
		problem = '';
		try {
			await what();
			since = (await body(api.GET('/api/planning/feed'))).since;
		} catch (error) {
			problem = said(error);
		}
	}
	$effect(() => void work(async () => {}));

	const make = () =>
		work(async () => {
			const { path } = await body(api.POST('/api/planning/feed'));
			address = `${location.origin}${path}`;
		});
	const revoke = () =>
		work(async () => {
			await api.DELETE('/api/planning/feed');
			address = '';
		});
</script>

<section class="sheet p-4" aria-labelledby="feed">
	<h2 id="feed" class="mb-1">Calendar feed</h2>
	<p class="small mb-2">
		Your calendar program shows the sessions you proctor and those of your classes: test, class, room and time. Anyone
		with the address can read them.
	</p>
	<Notice text={problem} onclose={() => (problem = '')} />
	{#if address}
		<label class="field mb-2"
			>Address, shown once<input
				class="input"
				readonly
				value={address}
				onfocus={(e) => e.currentTarget.select()}
			/></label
		>
	{:else if since}<p class="mb-2 text-[14px]">An address was created on {dateTime(since, zone)}.</p>{/if}
	<div class="flex gap-2">
		<Button onclick={make}>{since ? 'Replace address' : 'Create address'}</Button>
		{#if since}<Button kind="quiet" onclick={revoke}>Revoke</Button>{/if}
	</div>
</section>
