<script lang="ts">
	import Select from '$lib/design/Select.svelte';
	import type { Schemas } from '$lib/api/client';

	/** Which school and grade a page is of; not there where there is nothing to choose. */
	let {
		of,
		go
	}: {
		of: { schools: Schemas['LevelChoice'][]; school: string; grades: string[]; grade: string };
		go: (change: Record<string, string>) => void;
	} = $props();
</script>

{#if of.schools.length > 1 || of.school}<label class="field"
		>School<Select
			value={of.school}
			choices={[{ value: '', label: 'all schools' }, ...of.schools.map((s) => ({ value: s.id, label: s.name }))]}
			onchange={(school) => go({ school, grade: '', klass: '' })}
		/></label
	>{/if}
{#if of.grades.length > 1 || of.grade}<label class="field"
		>Grade<Select
			value={of.grade}
			choices={[{ value: '', label: 'all grades' }, ...of.grades.map((g) => ({ value: g, label: `grade ${g}` }))]}
			onchange={(grade) => go({ grade, klass: '' })}
		/></label
	>{/if}
