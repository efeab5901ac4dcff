import { api, body, said, type Schemas } from '$lib/api/client';

/** A family of companion forms, and which student receives which. */
export class FamilyPage {
	constructor(readonly id: string) {}
	/** Companion forms: what they share with the general one, and which student receives which. */
	data = $state<Schemas['FormFamily'] | null>(null);
	problem = $state('');
	form = $state('');
	group = $state('');
	busy = $state(false);
	lead = $derived(this.data?.forms.find((f) => !f.against));
	most = $derived(Math.max(1, ...(this.data?.forms ?? []).map((f) => f.points)));
	nameOf = $derived(new Map(this.data?.forms.map((f) => [f.id, f.name])));
	ROLES: Record<string, string> = {
		general: 'for most',
		parallel: 'other items, alike',
		demanding: 'more demanding'
	};
	receives = (f: Schemas['FamilyForm']) => this.data?.rules.filter((r) => r.form_id === f.id) ?? [];
	need = (f: Schemas['FamilyForm']) => this.data?.by_need[`needs a ${f.role} form`] ?? 0;

	load = async () => {
		try {
			this.data = await body(
				api.GET('/api/building/families/{family_id}', { params: { path: { family_id: this.id } } })
			);
			this.form ||= this.data.forms.find((f) => f.against)?.id ?? '';
		} catch (error) {
			this.problem = said(error);
		}
	};

	give = async (form_id: string, who: { group_id?: string; person_id?: string }) => {
		this.busy = true;
		this.problem = '';
		try {
			this.data = await body(
				api.POST('/api/building/families/{family_id}/rules', {
					params: { path: { family_id: this.id } },
					body: { form_id, group_id: who.group_id ?? null, person_id: who.person_id ?? null }
				})
			);
			this.group = '';
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	};

	drop = async (rule_id: string) => {
		try {
			this.data = await body(
				api.DELETE('/api/building/families/{family_id}/rules/{rule_id}', {
					params: { path: { family_id: this.id, rule_id } }
				})
			);
		} catch (error) {
			this.problem = said(error);
		}
	};
}
