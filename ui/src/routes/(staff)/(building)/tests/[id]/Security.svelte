<script lang="ts">
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import Select from '$lib/design/Select.svelte';

	/** Who sees the items before the test has been taken. */
	let { form, onkept }: { form: Schemas['FormDetail']; onkept: (form: Schemas['FormDetail']) => void } = $props();
	let problem = $state('');

	async function keep(secure: boolean | null, stays: boolean) {
		problem = '';
		try {
			onkept(
				await body(
					api.PUT('/api/forms/{form_id}/security', {
						params: { path: { form_id: form.id } },
						body: { secure, stays }
					})
				)
			);
		} catch (error) {
			problem = said(error);
		}
	}
</script>

<Popover label="Test security" button="btn quiet min-h-[30px]">
	{#snippet shown()}{form.secured ? 'Secure' : 'Not secure'}{/snippet}
	<div class="flex w-[300px] flex-col gap-2 text-[14px]">
		<p class="small">
			Teachers see title, length and standards of a secure test, and its items once every session and the window are
			over.
		</p>
		<label class="field"
			>Security<Select
				value={form.secure}
				choices={[
					{ value: null, label: form.kind === 'benchmark' ? 'secure, as benchmarks are' : 'not secure, as by default' },
					{ value: true, label: 'secure' },
					{ value: false, label: 'not secure' }
				]}
				onchange={(secure) => void keep(secure, form.stays_secure)}
			/></label
		>
		<Checkbox checked={form.stays_secure} onchange={(stays) => void keep(form.secure, stays)}
			>Stays secure afterwards: it will be used again</Checkbox
		>
		{#if problem}<p class="border-l-4 border-vermilion pl-2" role="alert">{problem}</p>{/if}
	</div>
</Popover>
