import { api, body, said, type Schemas } from '$lib/api/client';

/** Scoring one response after the other. What is given stays here until the server has it. */
export class DeskPage {
	desk = $state.raw<Schemas['Desk'] | null>(null);
	response = $state.raw<Schemas['ResponseView'] | null>(null);
	progress = $state.raw<Schemas['DeskProgress'] | null>(null);
	finding = $state('');
	/** By criterion of the rubric. */
	criteria = $state<(number | null)[]>([]);
	/** The criterion that a number is given to next. */
	at = $state(0);
	code = $state('');
	comment = $state('');
	/** Somebody else is to score it as well. */
	second = $state(false);
	/** This score is right: every scorer of the item is given the response without knowing it. */
	truth = $state(false);
	phrases = $state.raw<Schemas['PhraseLine'][]>([]);
	problem = $state('');
	busy = $state(false);
	/** To whom a safety alert about this response has gone. */
	alerted = $state<string[]>([]);
	/** Asked once before a name goes out. */
	alerting = $state(false);

	constructor(
		readonly place: string,
		readonly window: string,
		readonly sitting?: string
	) {}

	async load() {
		try {
			const desk = await body(
				api.GET('/api/scoring/items/{place}', {
					params: { path: { place: this.place }, query: { window: this.window, sitting: this.sitting } }
				})
			);
			this.desk = desk;
			this.phrases = desk.phrases;
			this.#take(desk);
		} catch (error) {
			this.problem = said(error);
		}
	}

	#take(next: { finding: string; progress: Schemas['DeskProgress']; response: Schemas['ResponseView'] | null }) {
		[this.finding, this.progress, this.response] = [next.finding, next.progress, next.response];
		const mine = next.response?.mine;
		const n = this.desk?.criteria.length ?? 0;
		this.criteria = mine?.criteria.length ? [...mine.criteria] : Array.from({ length: n }, () => null);
		[this.at, this.code, this.comment] = [0, mine?.code ?? '', next.response?.comment ?? ''];
		[this.second, this.truth] = [mine?.second ?? false, mine?.truth ?? false];
		[this.alerted, this.alerting] = [[], false];
	}

	/** Whether this person gives a score here, or only reads it. */
	get open(): boolean {
		const r = this.response;
		if (!r) return false;
		return (
			!!r.mine || r.waits === 'score' || r.waits === 'second' || (r.waits === 'adjudication' && !!this.desk?.settles)
		);
	}

	get ready(): boolean {
		return this.open && (!!this.code || (this.criteria.length > 0 && this.criteria.every((c) => c !== null)));
	}

	give(criterion: number, points: number) {
		if (!this.open) return;
		this.code = '';
		this.criteria[criterion] = points;
		const next = this.criteria.findIndex((c) => c === null);
		this.at = next < 0 ? criterion : next;
	}

	condition(code: string) {
		if (!this.open) return;
		this.code = this.code === code ? '' : code;
		if (this.code) this.criteria = this.criteria.map(() => null);
		this.at = 0;
	}

	/** A score that settles a response wants no second opinion. */
	askSecond(wanted: boolean) {
		if (this.open && this.response?.waits !== 'adjudication') [this.second, this.truth] = [wanted, false];
	}

	asTruth(wanted: boolean) {
		[this.truth, this.second] = [wanted, false];
	}

	phrase(text: string) {
		this.comment = this.comment ? `${this.comment.trimEnd()} ${text}` : text;
	}

	async #working(work: () => Promise<void>) {
		if (this.busy) return;
		this.busy = true;
		this.problem = '';
		try {
			await work();
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	}

	async save() {
		const { response } = this;
		if (!response || !this.ready) return;
		const criteria = this.code ? [] : this.criteria.filter((c) => c !== null);
		await this.#working(async () => {
			this.#take(
				await body(
					api.POST('/api/scoring/items/{place}/responses/{sitting}', {
						params: { path: { place: this.place, sitting: response.sitting } },
						body: {
							window: this.window,
							criteria,
							code: this.code,
							comment: this.comment,
							final: response.waits === 'adjudication',
							second: this.second,
							truth: this.truth
						}
					})
				)
			);
		});
	}

	async skip() {
		const { response } = this;
		if (!response) return;
		await this.#working(async () => {
			this.#take(
				await body(
					api.POST('/api/scoring/items/{place}/responses/{sitting}/skip', {
						params: { path: { place: this.place, sitting: response.sitting } },
						body: { window: this.window }
					})
				)
			);
		});
	}

	async withdraw() {
		const { response } = this;
		if (!response?.mine) return;
		await this.#working(async () => {
			this.#take(
				await body(
					api.DELETE('/api/scoring/items/{place}/responses/{sitting}', {
						params: { path: { place: this.place, sitting: response.sitting }, query: { window: this.window } }
					})
				)
			);
		});
	}

	async alert() {
		const { response } = this;
		if (!response) return;
		await this.#working(async () => {
			const sent = await body(
				api.POST('/api/scoring/items/{place}/responses/{sitting}/alert', {
					params: { path: { place: this.place, sitting: response.sitting } },
					body: { window: this.window }
				})
			);
			[this.alerted, this.alerting] = [sent.to, false];
		});
	}

	async keepPhrase() {
		await this.#working(async () => {
			this.phrases = await body(api.POST('/api/scoring/phrases', { body: { text: this.comment } }));
		});
	}

	async dropPhrase(id: string) {
		await this.#working(async () => {
			this.phrases = await body(api.DELETE('/api/scoring/phrases/{phrase}', { params: { path: { phrase: id } } }));
		});
	}

	/** Numbers give points, letters condition codes, Enter saves. */
	key(event: KeyboardEvent, letters: boolean) {
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey || this.alerting || !this.response) return;
		if (target.closest('textarea, input, [role=menu], [role=dialog], [role=alertdialog], [role=listbox]')) {
			if (event.key === 'Enter' && event.target instanceof HTMLTextAreaElement && !event.shiftKey && this.ready) {
				event.preventDefault();
				void this.save();
			}
			return;
		}
		if (event.key === 'Enter' && !target.closest('a, button')) return void this.save();
		if (event.key === 'ArrowRight') return void this.skip();
		if (/^\d$/.test(event.key)) {
			const levels = this.desk?.criteria[this.at]?.levels ?? [];
			const level = levels.find((l) => l.points === Number(event.key));
			if (level) this.give(this.at, level.points);
			return;
		}
		if (event.key === '!') return void (this.alerting = true);
		if (event.key === '?') return this.askSecond(!this.second);
		const code = letters ? this.desk?.conditions.find((c) => c.key === event.key.toUpperCase()) : undefined;
		if (code) {
			event.preventDefault();
			this.condition(code.code);
		}
	}
}
