import { toasts } from '$lib/design/toasts.svelte';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** The school year: its days, closed days and windows. */
export class YearPage {
	constructor(readonly url: URL) {}
	/** The school year: its days of instruction, closed days and windows; and the step into the next one. */
	data = $state<Schemas['YearPage'] | null>(null);
	none = $state(false);
	problem = $state('');
	closed = $state({ name: '', start: '', end: '', school_id: '' });
	windowForm = $state<{ id: string; name: string; start: string; end: string } | null>(null);
	yearForm = $state<{ id: string | null; title: string; start: string; end: string; weekdays: boolean[] } | null>(null);
	roll = $state<{ title: string; start: string; end: string; stay: string } | null>(null);
	preview = $state<Schemas['Preview'] | null>(null);
	DAYS = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

	load = async () => {
		const year = this.url.searchParams.get('year') ?? undefined;
		try {
			this.data = await body(api.GET('/api/year', { params: { query: { year } } }));
			this.none = this.data === null;
		} catch (error) {
			this.problem = said(error);
		}
	};

	go = async (work: Promise<unknown>, after?: () => void) => {
		this.problem = '';
		try {
			await work;
			after?.();
			await this.load();
			await staff.loadCalendar();
		} catch (error) {
			this.problem = said(error);
		}
	};
	iso = (text: string, years: number) => `${Number(text.slice(0, 4)) + years}${text.slice(4)}`;
	addClosed = (event: SubmitEvent) => {
		event.preventDefault();
		void this.go(
			api.POST('/api/year/closed', {
				body: { ...this.closed, end: this.closed.end || this.closed.start, school_id: this.closed.school_id || null }
			}),
			() => (this.closed = { name: '', start: '', end: '', school_id: '' })
		);
	};
	saveWindow = (event: SubmitEvent) => {
		event.preventDefault();
		if (!this.windowForm) return;
		const { id, ...values } = this.windowForm;
		const work = id
			? api.PUT('/api/year/windows/{window_id}', { params: { path: { window_id: id } }, body: values })
			: api.POST('/api/windows', { body: values });
		void this.go(work, () => (this.windowForm = null));
	};
	copyWindows = () => {
		if (!this.data) return;
		const path = { year: this.data.year_id };
		void this.go(api.POST('/api/years/{year}/windows/copy', { params: { path } }), () =>
			toasts.say('Windows copied to the next year, on the same weekdays.')
		);
	};
	saveYear = (event: SubmitEvent) => {
		event.preventDefault();
		if (!this.yearForm) return;
		const { id, ...values } = this.yearForm;
		void this.go(
			id
				? api.PUT('/api/year/{year_id}', { params: { path: { year_id: id } }, body: values })
				: api.POST('/api/year', { body: values }),
			() => (this.yearForm = null)
		);
	};

	begin = () => {
		if (!this.data) return;
		const start = this.iso(this.data.start, 1);
		this.roll = {
			title: `${start.slice(0, 4)}/${String(Number(start.slice(2, 4)) + 1).padStart(2, '0')}`,
			start,
			end: this.iso(this.data.end, 1),
			stay: ''
		};
		this.preview = null;
	};

	look = async (event: SubmitEvent) => {
		event.preventDefault();
		if (!this.roll) return;
		this.problem = '';
		try {
			const stay = this.roll.stay.split(/[\s,;]+/).filter(Boolean);
			this.preview = await body(api.POST('/api/people/rollover', { body: { ...this.roll, stay } }));
		} catch (error) {
			this.problem = said(error);
		}
	};
	apply = () =>
		this.go(
			api
				.POST('/api/people/rollover/{import_id}/apply', {
					params: { path: { import_id: this.preview?.id ?? '' } },
					body: { yes: true }
				})
				.then((a) => (this.preview = a.data ?? null))
		);
}
