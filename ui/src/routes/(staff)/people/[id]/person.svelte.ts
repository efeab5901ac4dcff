import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** One person: classes, sign-in code, every attempt, and what can be done about them. */
export class PersonPage {
	constructor(readonly id: string) {}
	/** One person: classes, sign-in code, every sitting. */
	data = $state<Schemas['PersonPage'] | null>(null);
	problem = $state('');
	temporary = $state('');
	zone = $derived(staff.calendar?.zone ?? 'UTC');
	hidden = (text: string) =>
		staff.veiled && this.data?.person.student
			? text.replaceAll(this.data.person.name, staff.name(this.data.person.name, 0))
			: text;

	load = async () => {
		try {
			this.data = await body(api.GET('/api/people/{person_id}', { params: { path: { person_id: this.id } } }));
			if (this.data?.may_grant) void this.openRoles().catch(() => {});
		} catch (error) {
			this.problem = said(error);
		}
	};

	newCode = async () => {
		if (!this.data) return;
		try {
			const made = await body(api.POST('/api/people/{person_id}/code', { params: { path: { person_id: this.id } } }));
			this.data.person.code = made.code;
		} catch (error) {
			this.problem = said(error);
		}
	};

	reset = async () => {
		try {
			this.temporary = (
				await body(api.POST('/api/people/{person_id}/password', { params: { path: { person_id: this.id } } }))
			).password;
		} catch (error) {
			this.problem = said(error);
		}
	};

	exportRecord = async () => {
		try {
			const made = await body(api.POST('/api/people/{person_id}/record', { params: { path: { person_id: this.id } } }));
			const link = document.createElement('a');
			link.href = URL.createObjectURL(new Blob([JSON.stringify(made.record, null, 1)], { type: 'application/json' }));
			link.download = `record-${this.data?.source_id}.json`;
			link.click();
			URL.revokeObjectURL(link.href);
		} catch (error) {
			this.problem = said(error);
		}
	};

	erase = async (why: string) => {
		try {
			await api.POST('/api/people/{person_id}/erase', { params: { path: { person_id: this.id } }, body: { why } });
			await goto('/people');
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** Something changed on the server: do it, then look again. */
	go = async (work: Promise<unknown>) => {
		this.problem = '';
		try {
			await work;
			await this.load();
			return true;
		} catch (error) {
			this.problem = said(error);
			return false;
		}
	};
	family = $state<{ given: string; family: string; username: string; relation: string } | null>(null);
	told = $state('');
	role = $state({ role: 'teacher', school_id: '' });
	schools = $state<Schemas['Ref'][]>([]);
	get path() {
		return { path: { person_id: this.id } };
	}
	ROLES = [
		{ value: 'coordinator', label: 'coordinator' },
		{ value: 'leader', label: 'school leader' },
		{ value: 'teacher', label: 'teacher' },
		{ value: 'specialist', label: 'special-education teacher, interventionist' },
		{ value: 'proctor', label: 'proctor' },
		{ value: 'writer', label: 'item writer' }
	];

	addFamily = async (event: SubmitEvent) => {
		event.preventDefault();
		if (!this.family) return;
		try {
			const made = await body(api.POST('/api/people/{person_id}/families', { params: this.path, body: this.family }));
			this.told = made.password ? `${this.family.username}: ${made.password}` : '';
			this.family = null;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	openRoles = async () => {
		if (this.schools.length || !staff.may('years.read')) return;
		this.schools = (await body(api.GET('/api/year')))?.schools ?? [];
		this.role.school_id = this.schools.find((s) => s.name === this.data?.person.school)?.id ?? '';
	};
	account = (account_id: string, yes: boolean | null) =>
		this.go(
			yes === null
				? api.DELETE('/api/people/accounts/{account_id}', { params: { path: { account_id } } })
				: api.POST('/api/people/accounts/{account_id}', { params: { path: { account_id } }, body: { yes } })
		);
	grant = () =>
		this.go(
			api.POST('/api/people/{person_id}/roles', {
				params: this.path,
				body: { role: this.role.role, school_id: this.role.school_id || null }
			})
		);
	FILL: Record<string, string> = {
		handed_in: 'var(--color-relief5)',
		answering: 'var(--color-relief3)',
		resting: 'var(--color-relief3)',
		not_started: 'var(--color-relief2)'
	};
}
