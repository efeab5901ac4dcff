import { api, body, Problem, said, type Schemas } from '$lib/api/client';

export type Plan = Schemas['Plan'];

/** A blueprint as it is changed; saved a moment after the last change. */
export class BlueprintPage {
	constructor(readonly id: string) {}
	blueprint = $state<Schemas['BlueprintView'] | null>(null);
	plan = $state<Plan | null>(null);
	standards = $state<Schemas['StandardLine'][]>([]);
	fields = $state<Schemas['Fields'] | null>(null);
	kinds = $state<Schemas['KindOut'][]>([]);
	problem = $state('');
	saving = $state('');
	building = $state(false);
	timer: ReturnType<typeof setTimeout> | undefined;
	queue = Promise.resolve();
	mine = $derived(
		this.standards.filter(
			(s) =>
				(!this.blueprint?.subject || s.subject === this.blueprint.subject) &&
				(!this.blueprint?.grade || s.grade === this.blueprint.grade)
		)
	);
	texts = $derived(new Map(this.standards.map((s) => [s.code, s.text])));
	may = $derived(this.blueprint?.may_write ?? false);

	load = async () => {
		try {
			[this.blueprint, { standards: this.standards }, this.fields, this.kinds] = await Promise.all([
				body(api.GET('/api/building/blueprints/{blueprint_id}', { params: { path: { blueprint_id: this.id } } })),
				body(api.GET('/api/bank/overview')),
				body(api.GET('/api/bank/fields')),
				body(api.GET('/api/building/kinds'))
			]);
			this.plan = structuredClone($state.snapshot(this.blueprint.content)) as Plan;
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** Kept a moment after the last change; what somebody else changed meanwhile is told, and nothing is overwritten. */
	changed = () => {
		this.saving = 'Saving …';
		clearTimeout(this.timer);
		this.timer = setTimeout(this.save, 600);
	};

	save = () => {
		this.queue = this.queue.then(async () => {
			if (!this.blueprint || !this.plan) return;
			const { revision, name, subject, grade, kind } = this.blueprint;
			try {
				const kept = await body(
					api.PUT('/api/building/blueprints/{blueprint_id}', {
						params: { path: { blueprint_id: this.id } },
						body: { revision, name, subject, grade, kind, content: $state.snapshot(this.plan) as Plan }
					})
				);
				this.blueprint = { ...kept, name, subject, grade, kind };
				this.saving = 'All changes saved';
				this.problem = '';
			} catch (error) {
				this.problem = said(error);
				this.saving = error instanceof Problem && error.status === 409 ? 'Not saved: changed elsewhere' : 'Not saved';
			}
		});
		return this.queue;
	};
	row = (standard = ''): Schemas['RowKept'] => ({
		low: 2,
		high: 2,
		count: 'items',
		standard,
		topic: '',
		unit: '',
		depth: null,
		kind: '',
		part: 0
	});

	each = () => {
		if (!this.plan) return;
		const there = new Set(this.plan.rows?.map((r) => r.standard));
		this.plan.rows = [
			...(this.plan.rows ?? []),
			...this.mine.filter((s) => !there.has(s.code)).map((s) => this.row(s.code))
		];
		this.changed();
	};

	whole = (name: 'items' | 'points' | 'minutes' | 'sets', side: 'low' | 'high', text: string) => {
		if (!this.plan) return;
		const value = text === '' ? null : Number(text);
		const now = this.plan[name];
		if (value === null) this.plan[name] = null;
		else if (!now) this.plan[name] = { low: side === 'low' ? value : 0, high: value };
		else this.plan[name] = { ...now, [side]: value };
		this.changed();
	};
	WHOLE: ['items' | 'points' | 'minutes' | 'sets', string][] = [
		['items', 'Items'],
		['points', 'Points'],
		['minutes', 'Minutes'],
		['sets', 'Stimuli']
	];
}
