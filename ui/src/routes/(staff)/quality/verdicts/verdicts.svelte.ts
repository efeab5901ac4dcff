import { api, body, said, type Schemas } from '$lib/api/client';

/** Items to decide, and what was decided about others. */
export class VerdictsPage {
	/** Items to decide; what was decided about others, and what of it is still to be done. */
	data = $state<Schemas['VerdictsOut'] | null>(null);
	problem = $state('');
	open = $state(true);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/quality/verdicts'));
			this.open = this.data.items.some((i) => !i.done);
		} catch (error) {
			this.problem = said(error);
		}
	};
	shown = $derived((this.data?.items ?? []).filter((i) => !this.open || !i.done));
	subjects = $derived([...new Set((this.data?.undecided ?? []).map((u) => u.subject))].sort());
	subject = $state('');
	wanting = $derived((this.data?.undecided ?? []).filter((u) => !this.subject || u.subject === this.subject));
	judge = (u: Schemas['Undecided']) =>
		`/quality/look/item?${new URLSearchParams({ form: u.form_id, window: u.window_id, item: u.item })}`;
	since = (at: string) => {
		const days = Math.floor((Date.now() - Date.parse(at)) / 86_400_000);
		return days < 1 ? 'today' : days === 1 ? 'yesterday' : `${days} days`;
	};
}
