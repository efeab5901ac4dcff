<script lang="ts">
	import { api, body, type Schemas } from '$lib/api/client';
	import Combobox from '$lib/design/Combobox.svelte';
	import { staff } from '$lib/state/staff.svelte';

	/** Find somebody and pick them; those already there are not offered. */
	let {
		kind,
		label,
		but = [],
		onpick
	}: {
		kind: 'student' | 'staff';
		label: string;
		but?: string[];
		onpick: (person: Schemas['PersonLine']) => void;
	} = $props();
	const SHOWN = 8;
	let found = $state<Schemas['PersonLine'][]>([]);
	let asked = 0;

	async function search(text: string) {
		const mine = ++asked;
		if (text.trim().length < 2) return void (found = []);
		const answer = await body(
			api.GET('/api/people', { params: { query: { find: text, kind, limit: SHOWN + but.length } } })
		);
		if (mine === asked) found = answer.people.filter((p) => !but.includes(p.id)).slice(0, SHOWN);
	}
	const choices = $derived(
		found.map((p, at) => ({
			value: p.id,
			label: p.kind === 'student' ? staff.name(p.name, at) : p.name,
			more: p.grade ? `grade ${p.grade}` : p.roles
		}))
	);
	function pick(id: string) {
		const person = found.find((p) => p.id === id);
		found = [];
		if (person) onpick(person);
	}
</script>

<Combobox
	{label}
	{choices}
	placeholder="name or initials"
	oninput={(text) => void search(text).catch(() => (found = []))}
	onchoose={pick}
/>
