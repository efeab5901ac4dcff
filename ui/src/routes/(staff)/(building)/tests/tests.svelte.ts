import { kindOfTest } from '$lib/words/kinds';
import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** Every form and blueprint, and making a new one. */
export class TestsPage {
	data = $state<Schemas['FormsOut'] | null>(null);
	blueprints = $state<Schemas['BlueprintLine'][]>([]);
	kinds = $state<Schemas['KindOut'][]>([]);
	problem = $state('');
	making = $state('');
	told = $state<Schemas['Brought'] | null>(null);
	words = $state('');
	kind = $state('all');
	draft = $state({ name: '', title: '', subject: '', grade: '', kind: '', blueprint_id: '' });
	there = $derived([...new Set((this.data?.forms ?? []).map((f) => f.kind))].sort());
	word = kindOfTest;

	load = async () => {
		try {
			[this.data, this.blueprints, this.kinds] = await Promise.all([
				body(api.GET('/api/forms')),
				body(api.GET('/api/building/blueprints')),
				body(api.GET('/api/building/kinds'))
			]);
			if (this.data.forms.length === 0 && staff.may('tests.write')) this.making = 'form';
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** A test of somebody else's, with its items: all of it or nothing. */
	bring = async (event: Event & { currentTarget: HTMLInputElement }) => {
		const file = event.currentTarget.files?.[0];
		event.currentTarget.value = '';
		if (!file) return;
		this.problem = '';
		try {
			const form = new FormData();
			form.append('file', file);
			const made = await body(
				api.POST('/api/building/packages', { body: form as never, bodySerializer: (b: unknown) => b as FormData })
			);
			this.told = made;
			this.data = await body(api.GET('/api/forms'));
		} catch (error) {
			this.problem = said(error);
		}
	};

	make = async (event: SubmitEvent) => {
		event.preventDefault();
		this.problem = '';
		try {
			if (this.making === 'blueprint') {
				const { name, subject, grade, kind } = this.draft;
				const made = await body(
					api.POST('/api/building/blueprints', {
						body: {
							revision: 0,
							name,
							subject,
							grade,
							kind,
							content: { rows: [], parts: [{ name: '', instructions: '' }], set_low: 1, set_high: 12 }
						}
					})
				);
				await goto(`/tests/blueprints/${made.id}`);
			} else {
				const form = await body(
					api.POST('/api/forms', { body: { ...this.draft, blueprint_id: this.draft.blueprint_id || null } })
				);
				await goto(`/tests/${form.id}`);
			}
		} catch (error) {
			this.problem = said(error);
		}
	};
}
