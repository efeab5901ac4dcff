import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** One class: who is in it, who asks to be let in, its codes. */
export class ClassPage {
	constructor(readonly id: string) {}
	/** One class: who is in it, who asks to be let in, its codes. */
	data = $state<Schemas['ClassPage'] | null>(null);
	problem = $state('');
	told = $state('');
	picked = $state<Record<string, string>>({});
	zone = $derived(staff.calendar?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/classes/{class_id}', { params: { path: { class_id: this.id } } }));
			for (const a of this.data.asking) this.picked[a.id] ??= a.matches[0]?.id ?? '';
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** A live round with this class; an earlier one ends. */
	live = async () => {
		try {
			const made = await body(api.POST('/api/live', { body: { class_id: this.id } }));
			await goto(`/live/${made.id}`);
		} catch (error) {
			this.problem = said(error);
		}
	};

	door = async (open_door: boolean, fresh_code = false) => {
		try {
			await api.PUT('/api/classes/{class_id}/door', {
				params: { path: { class_id: this.id } },
				body: { open_door, fresh_code }
			});
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	decide = async (request: string, let_in: boolean) => {
		try {
			const known = new Set(this.data?.students.map((s) => s.id));
			await api.POST('/api/classes/asking/{request_id}', {
				params: { path: { request_id: request } },
				body: { let_in, person_id: (let_in && this.picked[request]) || null, why: '' }
			});
			await this.load();
			const fresh = this.data?.students.find((s) => !known.has(s.id));
			this.told = fresh?.code ? `${fresh.name} is in this class now. Hand over their sign-in code: ${fresh.code}` : '';
		} catch (error) {
			this.problem = said(error);
		}
	};
	place = $derived(this.data?.students.some((s) => s.last_place));
}
