import { api, body, said, type Schemas } from '$lib/api/client';

/** The lessons of a pacing guide by classes. */
export class PlanPage {
	constructor(readonly id: string) {}
	/** A plan's lessons by classes: what was taught when, beside where the plan is today. A click says it was taught. */
	data = $state<Schemas['PlanPage'] | null>(null);
	problem = $state('');
	busy = $state('');

	load = async () => {
		try {
			this.data = await body(api.GET('/api/plans/{plan_id}', { params: { path: { plan_id: this.id } } }));
		} catch (error) {
			this.problem = said(error);
		}
	};

	say = async (klass: Schemas['ClassPace'], lesson: Schemas['LessonLine']) => {
		if (!this.data) return;
		this.busy = klass.id + lesson.id;
		try {
			const on = klass.taught[lesson.id] ? null : lesson.end < this.data.today ? lesson.end : this.data.today;
			await api.POST('/api/plans/taught', { body: { class_id: klass.id, lesson_id: lesson.id, on } });
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = '';
	};
	due = (l: Schemas['LessonLine']) => l.end < (this.data?.today ?? '');
	short = (title: string) => title.split(' ').at(-1) ?? title;
}
