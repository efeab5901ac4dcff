import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** Typing answers off paper: one attempt after the other, each once or twice. What is typed stays here until the server has it. */
export class Entry {
	page = $state.raw<Schemas['EntryPage'] | null>(null);
	sheet = $state.raw<Schemas['EntrySheet'] | null>(null);
	/** By question what was typed. */
	typed = $state<Record<string, string>>({});
	/** The first typing, while it is done the second time. */
	first = $state.raw<Record<string, string> | null>(null);
	twice = $state(false);
	/** Numbers at which the two typings are not the same. */
	differs = $state.raw<number[]>([]);
	problem = $state('');
	done = $state('');
	busy = $state(false);

	/** What the attempts earn on other forms of the family; null for who corrects nothing. */
	mixed = $state.raw<Schemas['MixedForms'] | null>(null);

	constructor(readonly session: string) {}

	/** Attempts whose booklets look mixed up, each with the form that they fit. */
	get odd() {
		return (this.mixed?.attempts ?? []).flatMap((one) => {
			const other = one.others.find((form) => form.better);
			return other ? [{ ...one, other }] : [];
		});
	}

	async scoreAs(reason: string) {
		const form = this.odd[0]?.other.form_id;
		const sittings = this.odd.filter((one) => one.other.form_id === form).map((one) => one.sitting);
		try {
			const made = await body(
				api.POST('/api/corrections/sessions/{session}/forms', {
					params: { path: { session: this.session } },
					body: { sittings, form: form ?? '', reason }
				})
			);
			await this.load();
			this.done = made.says;
		} catch (error) {
			this.problem = said(error);
		}
	}

	async load(attempt: string | null = null) {
		try {
			this.page = await body(api.GET('/api/scoring/paper/{session}', { params: { path: { session: this.session } } }));
			const open = attempt ?? this.page.attempts.find((a) => !a.done)?.sitting ?? this.page.attempts[0]?.sitting;
			if (open) await this.open(open);
			if (staff.may('scores.plan'))
				this.mixed = await body(
					api.GET('/api/corrections/sessions/{session}/forms', { params: { path: { session: this.session } } })
				);
		} catch (error) {
			this.problem = said(error);
		}
	}

	async open(sitting: string) {
		try {
			this.sheet = await body(
				api.GET('/api/scoring/paper/{session}/{sitting}', { params: { path: { session: this.session, sitting } } })
			);
			this.typed = Object.fromEntries(this.sheet.items.map((item) => [item.place, item.typed]));
			[this.first, this.differs, this.problem] = [null, [], ''];
		} catch (error) {
			this.problem = said(error);
		}
	}

	/** Whether one key is a whole answer, so that the next question is gone to. */
	whole(item: Schemas['EntryItem'], text: string): boolean {
		return item.way === 'letter' && text.length === 1 && item.letters.includes(text.toUpperCase());
	}

	get left(): number {
		return this.sheet?.items.filter((item) => item.way !== 'none' && !this.typed[item.place]?.trim()).length ?? 0;
	}

	async keep() {
		const sheet = this.sheet;
		if (!sheet || this.busy) return;
		if (this.twice && !this.first) {
			this.first = this.typed;
			this.typed = Object.fromEntries(sheet.items.map((item) => [item.place, '']));
			this.differs = [];
			return;
		}
		this.busy = true;
		try {
			const found = await body(
				api.PUT('/api/scoring/paper/{session}/{sitting}', {
					params: { path: { session: this.session, sitting: sheet.sitting } },
					body: { answers: this.typed, again: this.first, submit: true }
				})
			);
			this.differs = found.differs;
			if (found.differs.length) {
				this.typed = this.first ?? this.typed;
				this.first = null;
			} else {
				this.done = `${sheet.name}: ${found.answers} answers are in.`;
				await this.load();
			}
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}
}
