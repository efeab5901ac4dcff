import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** Groups across classes, and a table to set many at once. */
export class GroupsPage {
	/** Groups across classes, and a table to set needs and groups of many at once. */
	data = $state<Schemas['GroupsOut'] | null>(null);
	problem = $state('');
	making = $state(false);
	many = $state(false);
	name = $state('');
	byRule = $state(true);
	rule = $state('');
	tried = $state<Schemas['TriedRule'] | null>(null);
	known = $state<string[]>([]);
	coordinator = $derived(staff.may('support.write'));
	mostNeeded = $derived(Math.max(1, ...(this.data?.needs ?? []).map((n) => Number(n.value))));
	several = $derived(new Set((this.data?.groups ?? []).map((g) => g.school)).size > 1);
	most = $derived(Math.max(1, ...(this.data?.groups ?? []).map((g) => g.members)));

	load = async () => {
		try {
			this.data = await body(api.GET('/api/groups'));
			if (this.coordinator) this.known = (await body(api.GET('/api/people/support/columns'))).columns;
			else this.byRule = false;
		} catch (error) {
			this.problem = said(error);
		}
	};

	make = async (event: SubmitEvent) => {
		event.preventDefault();
		try {
			const made = await body(
				api.POST('/api/groups', {
					body: { name: this.name, rule: this.byRule ? this.rule : null, school_id: null, members: [] }
				})
			);
			await goto(`/people/groups/${made.id}`);
		} catch (error) {
			this.problem = said(error);
		}
	};
}
