import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';

/** One group: its rule, its members, the staff who work with it. */
export class GroupPage {
	constructor(readonly id: string) {}
	/** One group: its students with what they need, its rule, who works with it. */
	data = $state<Schemas['GroupPage'] | null>(null);
	problem = $state('');
	editing = $state(false);
	name = $state('');
	rule = $state('');
	tried = $state<Schemas['TriedRule'] | null>(null);
	get path() {
		return { path: { group_id: this.id } };
	}
	may = $derived(this.data?.group.may_change ?? false);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/groups/{group_id}', { params: this.path }));
			this.name = this.data.group.name;
			this.rule = this.data.group.rule ?? '';
		} catch (error) {
			this.problem = said(error);
		}
	};

	go = async (work: Promise<unknown>) => {
		this.problem = '';
		try {
			await work;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
	members = (add: string[], drop: string[]) =>
		this.go(api.POST('/api/groups/{group_id}/members', { params: this.path, body: { add, drop } }));
	works = (person_id: string, yes: boolean) =>
		this.go(api.POST('/api/groups/{group_id}/staff', { params: this.path, body: { person_id, works: yes } }));

	save = async (event: SubmitEvent) => {
		event.preventDefault();
		await this.go(
			api.PUT('/api/groups/{group_id}', {
				params: this.path,
				body: { name: this.name, rule: this.data?.group.rule === null ? null : this.rule }
			})
		);
		this.editing = !!this.problem;
	};

	end = async () => {
		try {
			await api.DELETE('/api/groups/{group_id}', { params: this.path });
			await goto('/people/groups');
		} catch (error) {
			this.problem = said(error);
		}
	};
}
