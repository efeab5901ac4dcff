import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';

type Item = Schemas['StudentItem'];

/** One student's test: which item is open, the way to the next item and the next student. */
export class StudentTestPage {
	data = $state.raw<Schemas['StudentTest'] | null>(null);
	at = $state(0);
	problem = $state('');
	busy = $state(false);
	comment = $state('');

	constructor(
		readonly sitting: string,
		readonly item: string
	) {}

	get open(): Item | undefined {
		return this.data?.items[this.at];
	}

	async load() {
		try {
			this.data = await body(
				api.GET('/api/quality/attempts/{sitting}', { params: { path: { sitting: this.sitting } } })
			);
			const items = this.data.items;
			const asked = items.findIndex((i) => String(i.number) === this.item);
			// where nothing is asked for, the first item that there is something to say about
			this.go(
				asked >= 0
					? asked
					: Math.max(
							0,
							items.findIndex((i) => i.gave !== 'right')
						)
			);
		} catch (error) {
			this.problem = said(error);
		}
	}

	go(at: number) {
		const n = this.data?.items.length ?? 0;
		this.at = Math.max(0, Math.min(n - 1, at));
		this.comment = this.open?.comments.find((c) => c.mine)?.text ?? '';
	}

	/** The same item of somebody else. */
	to(sitting: string | null) {
		if (sitting) void goto(`/sessions/tests/${sitting}?item=${this.open?.number ?? ''}`);
	}

	async say() {
		const { open, data } = this;
		if (!open || !data) return;
		this.busy = true;
		this.problem = '';
		try {
			const comments = await body(
				api.PUT('/api/quality/attempts/{sitting}/items/{place}/comment', {
					params: { path: { sitting: this.sitting, place: open.place } },
					body: { text: this.comment }
				})
			);
			this.data = { ...data, items: data.items.map((i) => (i.place === open.place ? { ...i, comments } : i)) };
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}

	key(event: KeyboardEvent, letters: boolean) {
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey) return;
		if (target.closest('input, textarea, [role=menu], [role=dialog], [role=listbox]')) return;
		if (event.key === 'ArrowRight') this.go(this.at + 1);
		else if (event.key === 'ArrowLeft') this.go(this.at - 1);
		else if (letters && event.key === 'n') this.to(this.data?.next ?? null);
		else if (letters && event.key === 'p') this.to(this.data?.previous ?? null);
	}
}
