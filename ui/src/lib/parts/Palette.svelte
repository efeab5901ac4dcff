<script lang="ts">
	import { Command, Dialog } from 'bits-ui';
	import { goto } from '$app/navigation';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';

	/** Finds people, classes, items, tests, sessions and pages; `/` opens it from anywhere. */
	let { open = $bindable(false), keep }: { open?: boolean; keep: (path: string) => string } = $props();

	type Found = Schemas['FoundThing'];
	const KINDS: [Found['kind'], string][] = [
		['person', 'People'],
		['class', 'Classes'],
		['test', 'Tests'],
		['session', 'Sessions'],
		['item', 'Items']
	];
	const PAGES: [label: string, path: string, action: string][] = [
		['Directory', '/people', 'people.read'],
		['Classes', '/people/classes', 'classes.read'],
		['Groups', '/people/groups', 'groups.read'],
		['Roster check', '/people/check', 'people.settle'],
		['School year', '/people/year', 'years.read'],
		['Settings', '/people/settings', 'settings.change'],
		['Bank health', '/bank/health', 'bank.read'],
		['Standards', '/bank/frameworks', 'bank.read'],
		['Stimuli', '/bank/stimuli', 'bank.read'],
		['Drafts and review', '/bank/writing', 'bank.write'],
		['Item decisions', '/quality/verdicts', 'quality.read']
	];
	let text = $state('');
	let found = $state<Found[]>([]);
	let problem = $state('');
	let asked = 0;

	const fits = (label: string) => label.toLowerCase().includes(text.trim().toLowerCase());
	const pages = $derived([
		...(staff.me?.stations ?? []).filter((s) => fits(s.name)).map((s) => ({ label: s.name, path: keep(s.path) })),
		...PAGES.filter(([label, , action]) => text.trim() && fits(label) && staff.may(action)).map(([label, path]) => ({
			label,
			path
		}))
	]);

	$effect(() => {
		if (!open) [text, found, problem] = ['', [], ''];
	});

	async function search() {
		const mine = ++asked;
		problem = '';
		try {
			const answer = await body(api.GET('/api/find', { params: { query: { text } } }));
			if (mine === asked) found = answer;
		} catch (error) {
			if (mine === asked) problem = said(error);
		}
	}
	function go(path: string) {
		open = false;
		void goto(path);
	}
</script>

{#snippet entry(label: string, more: string, path: string)}
	<Command.Item class="listed" value={path} onSelect={() => go(path)}>
		<span class="min-w-0 truncate">{label}</span><span class="small min-w-0 flex-1 truncate">{more}</span>
	</Command.Item>
{/snippet}

<Dialog.Root bind:open>
	<Dialog.Portal>
		<Dialog.Overlay class="overlay" />
		<Dialog.Content class="dialog palette max-w-[600px]">
			<Dialog.Title class="sr-only">Find</Dialog.Title>
			<Dialog.Description class="sr-only"
				>Type at least two characters, then choose with the arrow keys.</Dialog.Description
			>
			<Command.Root shouldFilter={false} label="Find">
				<Command.Input
					class="w-full border-b border-hair px-4 py-3 text-[16px] outline-none"
					placeholder="Find a person, class, item, test, session or page"
					aria-label="Find a person, class, item, test, session or page"
					bind:value={text}
					oninput={() => void search()}
				/>
				<Command.List tabindex={0} class="max-h-[420px] overflow-y-auto p-2" aria-label="Results">
					<Command.Viewport>
						{#if pages.length}
							<Command.Group>
								<Command.GroupHeading class="listed-head">Go to</Command.GroupHeading>
								<Command.GroupItems
									>{#each pages as p (p.path)}{@render entry(p.label, '', p.path)}{/each}</Command.GroupItems
								>
							</Command.Group>
						{/if}
						{#each KINDS as [kind, title] (kind)}
							{@const those = found.filter((f) => f.kind === kind)}
							{#if those.length}
								<Command.Group>
									<Command.GroupHeading class="listed-head">{title}</Command.GroupHeading>
									<Command.GroupItems
										>{#each those as f, at (f.path)}{@render entry(
												f.student ? staff.name(f.label, at) : f.label,
												f.more,
												f.path
											)}{/each}</Command.GroupItems
									>
								</Command.Group>
							{/if}
						{/each}
						{#if problem}<p class="notch px-2 py-1 text-[14px]">{problem}</p>
						{:else if text.trim().length > 1 && !found.length && !pages.length}<p class="small px-2 py-1">
								Nothing found for “{text.trim()}”.
							</p>{/if}
					</Command.Viewport>
				</Command.List>
			</Command.Root>
		</Dialog.Content>
	</Dialog.Portal>
</Dialog.Root>
