<script lang="ts">
	import { api, body, type Schemas } from '$lib/api/client';
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
	let text = $state('');
	let found = $state<Schemas['PersonLine'][]>([]);
	let asked = 0;

	async function search() {
		const mine = ++asked;
		if (text.trim().length < 2) return void (found = []);
		const answer = await body(
			api.GET('/api/people', { params: { query: { find: text, kind, limit: 8 + but.length } } })
		);
		if (mine === asked) found = answer.people.filter((p) => !but.includes(p.id)).slice(0, 8);
	}
	function pick(person: Schemas['PersonLine']) {
		text = '';
		found = [];
		onpick(person);
	}
	function keys(event: KeyboardEvent) {
		if (event.key === 'Enter' && found[0]) {
			event.preventDefault();
			pick(found[0]);
		}
	}
</script>

<label class="field"
	>{label}<input
		class="input"
		type="search"
		placeholder="initials or name"
		bind:value={text}
		oninput={() => void search().catch(() => (found = []))}
		onkeydown={keys}
	/></label
>
{#each found as p, at (p.id)}
	<button
		type="button"
		class="flex min-h-7 w-full cursor-pointer items-center gap-2 px-1 text-left text-[13.5px] hover:bg-wash"
		onclick={() => pick(p)}
	>
		<span class="flex-1">{p.kind === 'student' ? staff.name(p.name, at) : p.name}</span><span class="small"
			>{p.grade ? `grade ${p.grade}` : p.roles}</span
		>
	</button>
{/each}
