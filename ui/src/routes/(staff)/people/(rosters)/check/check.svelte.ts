import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** What in the rosters cannot be right, and settling it. */
export class CheckPage {
	/** Every discrepancy of the rosters with its likely cause and a one-step settlement. */
	data = $state<Schemas['RosterCheckOut'] | null>(null);
	problem = $state('');
	done = $state<string[]>([]);
	picked = $state<Record<string, string>>({});
	WORDS: Record<string, string> = {
		reported: 'Reported by proctors',
		session_lost: 'Scheduled for an archived class',
		proctor_left: 'Scheduled with a proctor who left',
		two_classes: 'In two classes of one subject or two homerooms',
		no_class: 'In no class',
		twice: 'Duplicate records',
		no_teacher: 'Without a teacher',
		no_students: 'Without students'
	};
	kinds = $derived(
		Object.keys(this.WORDS)
			.map((kind) => ({ kind, list: this.data?.discrepancies.filter((d) => d.kind === kind) ?? [] }))
			.filter((k) => k.list.length)
	);
	records = $state<Schemas['RecordsPage'] | null>(null);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/people/check'));
			if (staff.may('people.import')) this.records = await body(api.GET('/api/records'));
		} catch (error) {
			this.problem = said(error);
		}
	};

	settle = async (d: Schemas['Discrepancy'], step: Schemas['Step'], key: string) => {
		this.problem = '';
		const choice = this.picked[key] ?? '';
		const pick = step.choices.length > 0;
		try {
			await api.POST('/api/people/check/settle', {
				body: {
					step: step.step,
					person_id: step.person_id ?? (pick ? choice : null),
					class_id: step.class_id ?? (pick && !step.session_id ? choice : null),
					report_id: step.report_id,
					session_id: step.session_id,
					other_id: step.other_id
				}
			});
			const name = step.choices.find((c) => c.id === choice)?.name;
			this.done = [
				`${this.shown(d, this.done.length)}: ${step.step === 'merge' && staff.veiled ? 'Records merged' : step.label}${name ? ` ${name}` : ''}`,
				...this.done
			];
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	withdraw = async (id: string) => {
		try {
			await api.DELETE('/api/people/check/decisions/{decision_id}', { params: { path: { decision_id: id } } });
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
	/** While names are hidden, what is said of a student names no student number either. */
	what = (d: Schemas['Discrepancy']) => (staff.veiled && d.kind === 'twice' ? 'has two records' : d.what);
	label = (step: Schemas['Step'], n: number) =>
		staff.veiled && step.step === 'merge' ? `Keep record ${n + 1}` : step.label;
	LOSS: Record<string, string> = {
		merge:
			'Merge the two records? Tests, classes, groups and accommodations of the other record move to the one that is kept. This cannot be undone.',
		set_aside: 'Set this person aside? Their results stay, and the next roster does not bring them back.'
	};
	shown = (d: Schemas['Discrepancy'], at: number) =>
		['reported', 'session_lost', 'proctor_left', 'no_teacher', 'no_students'].includes(d.kind)
			? d.who
			: staff.name(d.who, at);
}
