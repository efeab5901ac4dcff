<script lang="ts">
	import { Popover } from 'bits-ui';
	import type { Snippet } from 'svelte';
	import { said, type Schemas } from '$lib/api/client';
	import { staff } from '$lib/state/staff.svelte';
	import { scrollable } from './scrollable';

	/** A number of students that leads to their names, and from there to each of them. */
	let { load, title, children }: { load: () => Promise<Schemas['BehindOut']>; title: string; children: Snippet } =
		$props();
	let open = $state(false);
	let found = $state<Schemas['BehindOut'] | null>(null);
	let problem = $state('');

	function ask(is: boolean) {
		open = is;
		if (!is) return;
		[found, problem] = [null, ''];
		load()
			.then((answer) => (found = answer))
			.catch((error) => (problem = said(error)));
	}
	const classes = $derived([...new Set(found?.named.map((p) => p.klass))]);
</script>

<Popover.Root bind:open onOpenChange={ask}>
	<Popover.Trigger
		class="word min-h-[24px] cursor-pointer"
		aria-label="{title}: who"
		onclick={(e: MouseEvent) => e.stopPropagation()}
		onkeydown={(e: KeyboardEvent) => e.stopPropagation()}>{@render children()}</Popover.Trigger
	>
	<Popover.Portal>
		<Popover.Content
			class="sheet z-30 w-[280px] px-3.5 py-3 text-[13.5px] shadow-lg"
			sideOffset={4}
			collisionPadding={8}
			onclick={(e: MouseEvent) => e.stopPropagation()}
		>
			<h2 class="mb-1 text-[15px]">{title}{found ? ` · ${found.n}` : ''}</h2>
			{#if problem}<p class="border-l-4 border-vermilion pl-2">{problem}</p>
			{:else if !found}<p class="small" role="status">Loading …</p>
			{:else}
				<div {@attach scrollable} class="max-h-[320px] overflow-y-auto">
					{#each classes as klass (klass)}
						{#if classes.length > 1}<p class="small mt-1.5">{klass}</p>{/if}
						<ul>
							{#each found.named.filter((p) => p.klass === klass) as p (p.person)}<li>
									<a class="word inline-block min-h-[24px] leading-6" href="/people/{p.person}"
										>{staff.name(p.name, p.alias)}</a
									>
								</li>{/each}
						</ul>
					{/each}
				</div>
				{#if found.hidden}<p class="small mt-1.5">
						{found.named.length
							? `${found.hidden} more`
							: found.hidden === 1
								? 'One student'
								: `${found.hidden} students`} in classes whose names you may not see.
					</p>{/if}
				{#if !found.n}<p class="small">No students.</p>{/if}
			{/if}
		</Popover.Content>
	</Popover.Portal>
</Popover.Root>
