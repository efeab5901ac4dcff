import { api, body, type Schemas } from '$lib/api/client';
import { Sitting } from './sitting.svelte';

/** A trial run: the student's page for staff. No answer is kept anywhere; the server only says what it would get. */
export class Trial extends Sitting {
	about = $state<Schemas['TrialOut'] | null>(null);

	constructor(
		readonly form: string,
		readonly seed: number
	) {
		super();
	}

	override async load() {
		const path = { form_id: this.form };
		this.about = await body(
			api.GET('/api/building/forms/{form_id}/trial', { params: { path, query: { seed: this.seed } } })
		);
		const { title, questions, parts, tools, large_print, one_by_one, one_way, check, timed } = this.about;
		this.paper = {
			room: null,
			sitting: `trial-${this.form}`,
			title,
			name: '',
			state: 'answering',
			end: new Date(Date.now() + 86_400_000).toISOString(),
			csrf: '',
			delivery: '',
			takeover: 1,
			sequence: 0,
			questions,
			large_print,
			read_aloud: this.about.read_aloud,
			tools,
			one_by_one,
			one_way,
			reached: 0,
			check,
			attempt: 1,
			more: 0,
			review: false,
			parts,
			full_name: '',
			review_follows: false,
			now: new Date().toISOString(),
			afterward: '',
			submit_from: null,
			brief_until: null,
			timed,
			section_end: null
		};
		this.place = 0;
		this.ended = '';
	}

	override listen() {
		return () => {};
	}

	override keep() {}

	override count() {}

	override go(place: number) {
		const last = (this.paper?.questions.length ?? 1) - 1;
		this.place = Math.max(this.paper?.one_way ? this.place : this.first, Math.min(this.bounds.to, place));
		if (this.place === last) void this.#seen();
	}

	override answer(question: Schemas['QuestionOut'], answer: string) {
		if (!question.final) question.answer = answer;
	}

	override beside(question: Schemas['QuestionOut'], about: 'notes' | 'sketch', text: string) {
		question[about] = text;
	}

	override comeBack(question: string) {
		this.later[question] = !this.later[question];
	}

	override async flush(): Promise<boolean> {
		return true;
	}

	override async check(question: Schemas['QuestionOut']) {
		const told = await this.#mark([question]);
		if (told.told[0]) this.told[question.id] = told.told[0];
		question.final = true;
	}

	override async handIn() {
		const paper = this.paper;
		if (!paper) return;
		await this.#seen();
		const found = await this.#mark(paper.questions);
		this.review = {
			title: `${paper.title}: preview, nothing is saved`,
			sentence: found.sentence,
			questions: paper.questions,
			told: found.told,
			standards: [],
			corrected_at: null
		};
	}

	override async leave() {}

	async #mark(questions: Schemas['QuestionOut'][]) {
		const answers = Object.fromEntries(questions.map((q) => [q.id, q.answer]));
		return body(
			api.POST('/api/building/forms/{form_id}/trial', { params: { path: { form_id: this.form } }, body: { answers } })
		);
	}

	/** Somebody came to the end of a draft: the checklist before publishing knows. */
	async #seen() {
		if (!this.about?.draft) return;
		await api.POST('/api/building/forms/{form_id}/read', {
			params: { path: { form_id: this.form } },
			body: { revision: this.about.revision }
		});
	}
}
