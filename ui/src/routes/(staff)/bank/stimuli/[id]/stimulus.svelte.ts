import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { keepMedia } from '$lib/bank/editor/pictures';

/** A stimulus with its items, and writing its next version. */
export class StimulusPage {
	constructor(readonly id: string) {}
	get fresh() {
		return this.id === 'new';
	}
	EMPTY: Schemas['StimulusIn'] = {
		number: 0,
		code: '',
		subject: '',
		grade: '',
		title: '',
		kind: 'passage',
		html: '',
		numbered: true,
		media: '',
		told: '',
		credit: ''
	};
	found = $state<Schemas['StimulusDetail'] | null>(null);
	form = $state<Schemas['StimulusIn']>({ ...this.EMPTY });
	editing = $state(false);
	adding = $state(false);
	busy = $state(false);
	problem = $state('');
	KINDS = [
		['passage', 'Passage'],
		['picture', 'Picture'],
		['table', 'Table'],
		['data', 'Data set'],
		['audio', 'Sound']
	] as const;
	medial = $derived(this.form.kind === 'picture' || this.form.kind === 'audio');
	seen = $derived<Schemas['StimulusView']>({
		id: '',
		code: this.form.code ?? '',
		number: 1,
		title: this.form.title,
		kind: this.form.kind,
		html: this.form.html ?? '',
		numbered: this.form.numbered ?? false,
		media: this.form.media ?? '',
		told: this.form.told ?? '',
		credit: this.form.credit ?? ''
	});

	load = async () => {
		if (this.fresh) return void (this.editing = true);
		try {
			this.found = await body(
				api.GET('/api/bank/stimuli/{stimulus_id}', { params: { path: { stimulus_id: this.id } } })
			);
			const { view } = this.found;
			this.form = {
				number: view.number,
				code: view.code,
				subject: this.found.subject,
				grade: this.found.grade,
				title: view.title,
				kind: view.kind,
				html: view.html,
				numbered: view.numbered,
				media: view.media,
				told: view.told,
				credit: view.credit
			};
		} catch (error) {
			this.problem = said(error);
		}
	};

	choose = async (event: Event) => {
		const file = (event.currentTarget as HTMLInputElement).files?.[0];
		if (!file) return;
		try {
			this.form.media = (await keepMedia(file)).key;
			this.problem = '';
		} catch (error) {
			this.problem = said(error);
		}
	};

	save = async (event: SubmitEvent) => {
		event.preventDefault();
		this.busy = true;
		try {
			const what = $state.snapshot(this.form);
			if (this.fresh) {
				const made = await body(api.POST('/api/bank/stimuli', { body: what }));
				await goto(`/bank/stimuli/${made.item_id}`, { replaceState: true });
			} else
				await api.PUT('/api/bank/stimuli/{stimulus_id}', {
					params: { path: { stimulus_id: this.id } },
					body: what
				});
			this.problem = '';
			this.editing = false;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
		this.busy = false;
	};
}
