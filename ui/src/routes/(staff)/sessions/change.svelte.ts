import { api, body, Problem, said, type Schemas } from '$lib/api/client';
import { fieldsOf } from '$lib/words/show';

type Line = Schemas['SessionLine'];

/** What is about to be different in one session or in many; what speaks against it asks for a reason. */
export class SessionChange {
	constructor(
		readonly lines: Line[],
		zone: string
	) {
		const one = lines.length === 1 ? lines[0] : undefined;
		if (!one) return;
		const [start, end] = [fieldsOf(one.start, zone), fieldsOf(one.end, zone)];
		[this.day, this.from] = [start.day, start.time];
		[this.lastDay, this.to] = [end.day, end.time];
		this.room = one.room;
		this.proctor = one.proctor_id ?? '';
		this.title = one.title;
		this.instructions = one.instructions;
		this.form = one.form_id;
		this.first = { ...this.values };
	}
	day = $state('');
	from = $state('');
	lastDay = '';
	to = $state('');
	shift = $state('');
	room = $state('');
	proctor = $state('');
	title = $state('');
	instructions = $state('');
	form = $state('');
	why = $state('');
	asksWhy = $state('');
	problem = $state('');
	busy = $state(false);
	choices = $state<Schemas['Choices'] | null>(null);
	first: Record<string, string> = {};

	get many(): boolean {
		return this.lines.length > 1;
	}

	get values(): Record<string, string> {
		const { day, from, to, room, proctor, title, instructions, form } = this;
		return { day, from, to, room, proctor, title, instructions, form };
	}

	load = async () => {
		try {
			this.choices = await body(api.GET('/api/sessions/choices'));
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** Whether it was done. */
	save = async (): Promise<boolean> => {
		this.busy = true;
		this.problem = '';
		try {
			await api.POST('/api/sessions/change', { body: this.body() });
			return true;
		} catch (error) {
			if (error instanceof Problem && error.place === 'why') this.asksWhy = error.detail;
			else this.problem = said(error);
			return false;
		} finally {
			this.busy = false;
		}
	};

	private body(): Schemas['ChangeIn'] {
		const revisions = Object.fromEntries(this.lines.map((s) => [s.id, s.revision]));
		const base = { revisions, why: this.why, grant_role: false };
		if (this.many)
			return {
				...base,
				...(this.shift ? { shift: Number(this.shift) } : {}),
				...(this.room ? { room: this.room } : {}),
				...(this.instructions ? { instructions: this.instructions } : {})
			};
		const now = this.values;
		const moved = (name: string) => now[name] !== this.first[name];
		const until = this.lastDay > this.day && !moved('day') ? this.lastDay : this.day;
		return {
			...base,
			...(moved('day') || moved('from') ? { start: `${this.day}T${this.from}:00` } : {}),
			...(moved('day') || moved('to') ? { end: `${until}T${this.to}:00` } : {}),
			...(moved('room') ? { room: this.room } : {}),
			...(moved('proctor') ? { proctor: this.proctor } : {}),
			...(moved('title') ? { title: this.title } : {}),
			...(moved('instructions') ? { instructions: this.instructions } : {}),
			...(moved('form') ? { form_id: this.form } : {})
		};
	}
}
