import { goto } from '$app/navigation';
import { api, body, said, type Schemas } from '$lib/api/client';
import { staff } from '$lib/state/staff.svelte';

/** One's own password and sign-ins. */
export class AccountPage {
	/** One's own password and the places one is signed in at. */
	old = $state('');
	fresh = $state('');
	again = $state('');
	problem = $state('');
	done = $state('');
	list = $state<Schemas['SignInLine'][]>([]);
	zone = $derived(staff.calendar?.zone ?? Intl.DateTimeFormat().resolvedOptions().timeZone);
	others = $derived(this.list.filter((s) => !s.here).length);
	colleagues = $state<Schemas['ColleaguesOut'] | null>(null);
	asked = $state('');

	show = async (work: Promise<unknown>) => {
		try {
			await work;
			this.asked = '';
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	load = async () => {
		try {
			this.list = await body(api.GET('/api/me/sign-ins'));
			if (staff.may('classes.read') && !staff.me?.must_change)
				this.colleagues = await body(api.GET('/api/me/colleagues'));
		} catch (error) {
			this.problem = said(error);
		}
	};

	change = async (event: SubmitEvent) => {
		event.preventDefault();
		this.problem = this.done = '';
		if (this.fresh !== this.again) return void (this.problem = 'The two new passwords do not match.');
		const first = staff.me?.must_change ?? false;
		try {
			await api.PUT('/api/me/password', { body: { old: this.old, new: this.fresh } });
			this.old = this.fresh = this.again = '';
			this.done = 'Password changed. You are signed out on all other devices.';
			await staff.load();
			if (first) await goto('/start');
			else await this.load();
		} catch (error) {
			this.problem = said(error).replace('Not accepted: ', '');
		}
	};

	end = async (id: string) => {
		try {
			await api.DELETE('/api/me/sign-ins/{sign_in_id}', { params: { path: { sign_in_id: id } } });
			await this.load();
		} catch (error) {
			this.problem = said(error);
		}
	};

	/** The browser and system out of what a browser calls itself. */
	device = (text: string) => {
		const browser = /(Firefox|Edg|Chrome|Safari)/.exec(text)?.[1] ?? 'a browser';
		const system = /(Windows|Mac OS|Android|iPhone|iPad|Linux)/.exec(text)?.[1];
		return `${browser === 'Edg' ? 'Edge' : browser}${system ? ` on ${system}` : ''}`;
	};
}
