import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** Frameworks of standards, and what each standard says. */
export class FrameworksPage {
	constructor(readonly url: URL) {}
	/** A framework as a tree: what each standard has of items, what families read, its counterpart elsewhere. */
	data = $state<Schemas['FrameworkPage'] | null>(null);
	none = $state(false);
	problem = $state('');
	bringing = $state(false);
	title = $state('');
	find = $state('');
	editing = $state('');
	plain = $state('');
	asked = 0;
	most = $derived(Math.max(1, ...(this.data?.rows ?? []).map((r) => r.items)));
	RELATIONS: Record<string, string> = {
		exactMatchOf: 'same as',
		replacedBy: 'replaced by',
		isPartOf: 'part of',
		isRelatedTo: 'related to',
		precedes: 'before',
		'exactMatchOf (from there)': 'same as',
		'replacedBy (from there)': 'replaces',
		'isPartOf (from there)': 'holds',
		'isRelatedTo (from there)': 'related to',
		'precedes (from there)': 'after'
	};
	/** Rows that fit, each with the headings above it. */
	shown = $derived.by(() => {
		const rows = this.data?.rows ?? [];
		const words = this.find.toLowerCase().split(/\s+/).filter(Boolean);
		if (!words.length) return rows;
		const keep = rows.map((r) => words.every((w) => `${r.code} ${r.text} ${r.plain}`.toLowerCase().includes(w)));
		let under: boolean[] = [];
		for (let at = rows.length - 1; at >= 0; at--) {
			const depth = rows[at]!.depth;
			if (under[depth + 1]) keep[at] = true;
			under = [...under.slice(0, depth), (under[depth] ?? false) || keep[at]!];
		}
		return rows.filter((_, at) => keep[at]);
	});
	span = (r: Schemas['StandardRow']) =>
		r.grade_to && r.grade_to !== r.grade ? `${r.grade} to ${r.grade_to}` : r.grade;

	load = async () => {
		const mine = ++this.asked;
		const framework = this.url.searchParams.get('framework') ?? undefined;
		try {
			const answer = await body(api.GET('/api/frameworks', { params: { query: { framework } } }));
			if (mine !== this.asked) return;
			this.data = answer;
			this.none = answer === null;
			this.bringing = this.bringing || (this.none && staff.may('frameworks.write'));
		} catch (error) {
			this.problem = said(error);
		}
	};

	change = async (r: Schemas['StandardRow'], values: { plain?: string; priority?: boolean }) => {
		this.problem = '';
		try {
			await api.PUT('/api/standards/{standard_id}', {
				params: { path: { standard_id: r.id } },
				body: { plain: values.plain ?? r.plain, priority: values.priority ?? r.priority }
			});
			this.editing = '';
			await this.load();
			await staff.loadTexts();
		} catch (error) {
			this.problem = said(error);
		}
	};

	main = async () => {
		try {
			await api.PUT('/api/frameworks/{framework_id}/main', {
				params: { path: { framework_id: this.data?.framework.id ?? '' } }
			});
			await this.load();
			await staff.loadTexts();
		} catch (error) {
			this.problem = said(error);
		}
	};
	applied = () => void this.load().then(() => staff.loadTexts());
}
