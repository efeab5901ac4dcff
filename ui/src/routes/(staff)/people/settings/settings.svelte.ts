import { api, body, said, type Schemas } from '$lib/api/client';
import { formats } from '$lib/words/formats.svelte';

/** What the federation decides for itself. */
export class SettingsPage {
	/** What the federation decides: keeping, the records system, the sign-in provider, what is known about students. */
	data = $state<Schemas['SettingsOut'] | null>(null);
	v = $state<Record<string, never>>({});
	problem = $state('');
	done = $state('');
	fresh = $state({ name: '', seen_by: 'coordinator' });

	get formats(): string {
		return this.v.formats ?? 'en-US';
	}

	set formats(style: string) {
		this.v = { ...this.v, formats: style as never };
	}

	/** Why a student may be exempt; blank lines are left out when they are saved. */
	get reasons(): string[] {
		return this.v.exemption_reasons ?? [];
	}

	set reasons(lines: string[]) {
		this.v = { ...this.v, exemption_reasons: lines as never };
	}

	/** Write dates and times so from now on, on every page. */
	write = () => formats.set(this.formats);

	load = async () => {
		try {
			this.data = await body(api.GET('/api/settings'));
			this.v = { ...this.data.values } as Record<string, never>;
		} catch (error) {
			this.problem = said(error);
		}
	};

	keep = async (names: string[]) => {
		this.problem = this.done = '';
		this.reasons = this.reasons.map((r) => r.trim()).filter(Boolean);
		try {
			await api.PUT('/api/settings', { body: { values: Object.fromEntries(names.map((n) => [n, this.v[n]])) } });
			await this.load();
			this.done = 'Saved.';
		} catch (error) {
			this.problem = said(error);
		}
	};

	go = async (work: Promise<unknown>) => {
		this.problem = this.done = '';
		try {
			await work;
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};
	finding = $derived.by(() => {
		if (!this.data) return '';
		const d = this.data.due;
		const due = [
			d.students && `${d.students} departed students`,
			d.sign_ins && `${d.sign_ins} old sign-ins`,
			d.log_entries && `${d.log_entries} old log entries`
		].filter(Boolean);
		const records = this.data.values.records_on
			? 'Rosters follow the records system every night'
			: 'Rosters are imported from files';
		return `${records}; ${this.data.values.provider_on ? 'sign-in by password, code or provider' : 'sign-in by password or code'}. ${due.length ? `Tonight's cleanup removes ${due.join(', ')}.` : 'Nothing is due for deletion.'}`;
	});
}
