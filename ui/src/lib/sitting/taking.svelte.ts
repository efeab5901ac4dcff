import { goto } from '$app/navigation';
import { Problem, said } from '$lib/api/client';
import { complete } from '$lib/sitting/question/answer';
import { checkDevice } from './device';
import { Errands } from './errands.svelte';
import { Highlighter } from './highlighter.svelte';
import { Reader } from './speech.svelte';
import type { Sitting } from './sitting.svelte';

const STATUS = { saved: 'Saved', saving: 'Saving …', waiting: 'Not saved yet. Keep this page open.' };
/** Milliseconds between two signs that this device is there. */
const HERE = 60_000;
/** Milliseconds of another page that are nobody's business. */
const GLANCE = 2000;
/** Minutes before the end at which a student is told once. */
const SOON = 5;
type Question = NonNullable<Sitting['question']>;
type Display = { contrast: boolean; spaced: boolean; zoom: number };
const TOOLS: [string, string][] = [
	['calculator', 'calculator'],
	['scientific', 'scientific calculator'],
	['sketch', 'sketch pad'],
	['notes', 'notes'],
	['highlighter', 'highlighter'],
	['ruler', 'ruler'],
	['protractor', 'protractor']
];

/** What the student's page itself knows beside the attempt: what is open, what went wrong, what the clock says. */
export class Run {
	problem = $state('');
	/** The page before submitting is shown. */
	leaving = $state(false);
	busy = $state(false);
	now = $state(Date.now());
	/** Tools that are out on the table. */
	#out = $state<Record<string, boolean>>({});
	readonly reader = new Reader();
	display = $state<Display>({ contrast: false, spaced: false, zoom: 1 });
	/** Submitting this early is far quicker than usual, and the student was asked once. */
	hasty = $state(false);
	/** How many hints of each question are shown. */
	hinted = $state<Record<string, number>>({});
	/** The student does not want to see the time. */
	timeHidden = $state(false);
	/** Five minutes are left, and the student has not read that yet. */
	soon = $state(false);
	#soonTold = '';
	/** The minutes of a section were over, and the next one is open. */
	sectionOver = $state(false);
	#leftAt = 0;
	readonly errands = new Errands();
	readonly highlighter = new Highlighter();
	/** The end at which it was handed in; where it moves, so does that. */
	#handed = '';

	constructor(
		readonly sitting: Sitting,
		readonly home: string,
		readonly trial: boolean
	) {}

	get paper() {
		return this.sitting.paper;
	}

	get question() {
		return this.sitting.question;
	}

	get tools(): Set<string> {
		return new Set(this.paper?.tools ?? []);
	}

	/** Whether any question can be gone to at any time. */
	get free(): boolean {
		return !this.paper?.one_by_one;
	}

	/** The tools of the menu, in words. */
	get toolWords(): [string, string][] {
		return TOOLS.filter(([name]) => this.tools.has(name));
	}

	using(name: string): boolean {
		return name === 'highlighter' ? this.highlighter.on : !!this.#out[name] && this.tools.has(name);
	}

	use(name: string) {
		if (name === 'highlighter') this.highlighter.on = !this.highlighter.on;
		else this.#out[name] = !this.#out[name];
	}

	showAs(change: Partial<Display>) {
		this.display = { ...this.display, ...change };
		this.sitting.keep('display', this.display);
	}

	/** In how many minutes the test can be submitted; 0: now. */
	get submitIn(): number {
		const from = this.paper?.submit_from ? Date.parse(this.paper.submit_from) : 0;
		return Math.max(0, Math.ceil((from - this.now - this.sitting.ahead) / 60_000));
	}

	/** Submit, but ask once where it is far quicker than is usual. */
	async submit() {
		const brief = this.paper?.brief_until ? Date.parse(this.paper.brief_until) : 0;
		if (!this.trial && !this.hasty && Date.now() + this.sitting.ahead < brief) this.hasty = true;
		else await this.handIn();
	}

	/** No question follows, in this section. */
	get last(): boolean {
		return this.sitting.place === this.sitting.bounds.to;
	}

	/** What the section is called that is open, where sections end by themselves. */
	get section(): string {
		if (!this.paper?.timed || !this.question) return '';
		const parts = [...new Set(this.paper.questions.map((q) => q.part))];
		const at = parts.indexOf(this.question.part) + 1;
		return `Section ${at} of ${parts.length}`;
	}

	/** Whether the last section is open, so that what follows is submitting. */
	get finishing(): boolean {
		return this.sitting.inLast;
	}

	/** Leave this section for good. */
	nextSection() {
		this.sectionOver = false;
		this.reader.close();
		this.sitting.nextSection();
		this.leaving = false;
		window.scrollTo(0, 0);
		requestAnimationFrame(() => document.getElementById('question')?.focus());
	}

	/** The screen is covered: the room stands still, or the student is out of it. */
	get covered(): boolean {
		return !this.trial && !!(this.sitting.room?.paused || this.sitting.room?.away);
	}

	/** Help was asked for, and nobody has come yet. */
	get asked(): boolean {
		return !!this.sitting.room?.help;
	}

	/** When the test ends, or the section that is open. */
	get #end(): number {
		if (!this.paper) return 0;
		const end = Date.parse(this.paper.end);
		return this.paper.section_end ? Math.min(end, Date.parse(this.paper.section_end)) : end;
	}

	get minutes(): number {
		const end = this.#end;
		return Math.max(0, Math.ceil((end - this.now - this.sitting.ahead) / 60_000));
	}

	/** Why it is over; empty while it is not. */
	get ended(): string {
		return this.sitting.ended || (this.paper && this.paper.state !== 'answering' ? this.paper.state : '');
	}

	/** The part that begins with this question. */
	get begins() {
		const { paper, question } = this;
		if (!question || !paper?.parts.length) return undefined;
		const first = paper.questions.find((q) => q.part === question.part);
		return first?.id === question.id ? paper.parts[question.part] : undefined;
	}

	get unchecked(): boolean {
		return !!this.paper?.check && !!this.question && !this.question.final && !!this.question.answer;
	}

	get status(): string {
		const { sitting } = this;
		if (this.trial) return 'Preview: nothing is saved';
		if (sitting.refused) return `Not saved: ${sitting.refused}`;
		if (sitting.status === 'waiting' && !sitting.kept)
			return 'Not saved yet, and this device is full. Do not close this page.';
		return STATUS[sitting.status];
	}

	/** How a question stands, in words. */
	stands(q: Question): string {
		const answered = complete(q.shown, q.answer) ? 'answered' : 'open';
		return `Question ${q.number}, ${answered}${this.sitting.later[q.id] ? ', come back to it' : ''}`;
	}

	/** Ask for the test and follow it; the returned function stops that. */
	begin(): () => void {
		let stop = () => {};
		this.sitting
			.load()
			.then(() => {
				stop = this.sitting.listen();
				void this.#checked();
				this.display = { ...this.display, ...this.sitting.recall<Display>('display') };
			})
			.catch((error) => {
				if (error instanceof Problem && error.status === 401) void goto(this.home);
				else this.problem = said(error);
			});
		const clock = setInterval(() => {
			this.now = Date.now();
			if (this.sitting.ended === 'kept_here') void this.sitting.settle();
		}, 10_000);
		const errands = this.trial ? () => {} : this.errands.start();
		const here = setInterval(() => void this.#quietly(() => this.sitting.sign('here')), HERE);
		const back = () => void this.sitting.ask();
		const seen = () => {
			this.sitting.count();
			this.#looked();
		};
		window.addEventListener('online', back);
		document.addEventListener('visibilitychange', seen);
		return () => {
			clearInterval(clock);
			clearInterval(here);
			errands();
			stop();
			window.removeEventListener('online', back);
			document.removeEventListener('visibilitychange', seen);
		};
	}

	/** What this device can do, and what it still holds of others. */
	async #checked() {
		await this.#quietly(async () => {
			await this.sitting.pages;
			const { ahead, paper } = this.sitting;
			const device = await checkDevice(ahead, !!paper?.read_aloud, this.errands.answers);
			await this.sitting.sign('checked', { device });
		});
	}

	/** What is held of others changed. */
	holding() {
		if (this.sitting.paper && this.#holds !== this.errands.answers) {
			this.#holds = this.errands.answers;
			void this.#checked();
		}
	}
	#holds = 0;

	/** Whoever left the page is back: how long that was is for staff. */
	#looked() {
		if (document.hidden) this.#leftAt = Date.now();
		else if (this.#leftAt) {
			const away = Date.now() - this.#leftAt;
			this.#leftAt = 0;
			if (away >= GLANCE && !this.ended && !this.covered && !this.trial)
				void this.#quietly(() => this.sitting.sign('left', { seconds: Math.round(away / 1000) }));
		}
	}

	/** What is no trouble where it fails. */
	async #quietly(work: () => Promise<unknown>) {
		if (this.trial || this.ended) return;
		try {
			await work();
		} catch {
			/* the server hears of it the next time */
		}
	}

	/** Ask for help, or take it back; leave for the restroom and come back; a message was read. */
	async sign(kind: 'help' | 'never_mind' | 'restroom' | 'back' | 'read', message = '') {
		await this.#working(() => this.sitting.sign(kind, { message }), plainly);
	}

	/** Say once that little time is left. */
	atFive() {
		const which = this.section || 'test';
		if (this.trial || this.ended || this.covered || this.#soonTold === which || !this.paper) return;
		if (this.minutes > SOON || this.minutes === 0) return;
		this.#soonTold = which;
		this.soon = true;
	}

	/** When time is over: hand in what is there, once. */
	atTheEnd() {
		if (this.sitting.ended === 'kept_here') return;
		const { paper } = this;
		if (!paper || this.trial || this.ended || this.#handed === paper.end || paper.state !== 'answering') return;
		if (this.sitting.room?.paused) return; // the clock stands still
		if (this.now + this.sitting.ahead <= this.#end) return;
		if (this.now + this.sitting.ahead <= Date.parse(paper.end) && !this.sitting.inLast) {
			this.nextSection();
			this.sectionOver = true;
			return;
		}
		this.#handed = paper.end;
		void this.handIn(true);
	}

	async #working(work: () => Promise<unknown>, words: (error: unknown) => string = said) {
		this.busy = true;
		this.problem = '';
		try {
			await work();
		} catch (error) {
			this.problem = words(error);
			if (error instanceof Problem && error.status === 409) await this.sitting.load();
		}
		this.busy = false;
	}

	async check() {
		const { question } = this;
		if (question) await this.#working(() => this.sitting.check(question), plainly);
	}

	async again() {
		await this.#working(async () => {
			await this.sitting.again();
			[this.leaving, this.#handed, this.hinted, this.sectionOver] = [false, '', {}, false];
		});
	}

	async handIn(timeOver = false) {
		await this.#working(() => this.sitting.handIn(timeOver), plainly);
	}

	async lookBack() {
		await this.#working(() => this.sitting.look());
	}

	async leave() {
		this.reader.close();
		try {
			await this.sitting.leave();
		} catch {
			/* signed out already */
		}
		await goto(this.home);
	}

	show(place: number) {
		this.reader.close();
		this.sitting.go(place);
		this.leaving = false;
		window.scrollTo(0, 0);
		requestAnimationFrame(() => document.getElementById('question')?.focus());
	}

	overview() {
		this.leaving = true;
		window.scrollTo(0, 0);
	}

	/** Letters choose, arrows turn the page. */
	key(event: KeyboardEvent) {
		const { question, sitting } = this;
		const target = event.target as HTMLElement;
		if (event.ctrlKey || event.metaKey || event.altKey || this.leaving || this.ended || this.covered || !question)
			return;
		if (target.matches('textarea, select, [role=checkbox]')) return;
		const only = question.shown.parts.length === 1 ? question.shown.parts[0] : undefined;
		if (target.matches('input[type=text]')) {
			if (event.key === 'Enter' && !this.last && only) this.show(sitting.place + 1);
			return;
		}
		const letters = only?.type === 'choice' && only.most === 1 && !question.final && /^[a-z]$/i.test(event.key);
		const option = letters ? only.options[event.key.toUpperCase().charCodeAt(0) - 65] : undefined;
		if (option) sitting.answer(question, option.id);
		else if (event.key === 'ArrowRight' && !target.matches('input') && !this.last) this.show(sitting.place + 1);
		else if (event.key === 'ArrowLeft' && !target.matches('input')) this.show(sitting.place - 1);
	}
}

/** What a student is told: the server's own sentence, or the page's, or that the network is away. */
function plainly(error: unknown): string {
	if (error instanceof Problem) return error.detail;
	return error instanceof Error && !(error instanceof TypeError) ? error.message : said(error);
}
