<script lang="ts">
	import Panel from '$lib/design/Panel.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Accordion from '$lib/design/Accordion.svelte';
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Checkboxes from '$lib/design/Checkboxes.svelte';
	import Combobox from '$lib/design/Combobox.svelte';
	import DateField from '$lib/design/DateField.svelte';
	import Dialog from '$lib/design/Dialog.svelte';
	import Menu from '$lib/design/Menu.svelte';
	import Pagination from '$lib/design/Pagination.svelte';
	import Popover from '$lib/design/Popover.svelte';
	import Progress from '$lib/design/Progress.svelte';
	import RadioGroup from '$lib/design/RadioGroup.svelte';
	import Select from '$lib/design/Select.svelte';
	import Slider from '$lib/design/Slider.svelte';
	import Switch from '$lib/design/Switch.svelte';
	import Tabs from '$lib/design/Tabs.svelte';
	import TimeField from '$lib/design/TimeField.svelte';
	import ToggleGroup from '$lib/design/ToggleGroup.svelte';
	import ToggleSet from '$lib/design/ToggleSet.svelte';
	import Toolbar from '$lib/design/Toolbar.svelte';
	import Tooltip from '$lib/design/Tooltip.svelte';
	import { choices } from '$lib/design/choices';
	import { sure } from '$lib/design/questions.svelte';
	import { toasts } from '$lib/design/toasts.svelte';

	/** Every part of lib/design with its states, to be looked at. */
	const SUBJECTS = choices('Mathematics', 'Reading', 'Science');
	const STANDARDS = choices(
		['M6.1', 'Ratios and rates'],
		['M6.2', 'Find a percentage of a quantity'],
		['M6.3', 'Negative numbers']
	);
	let subject = $state('Mathematics');
	let empty = $state('');
	let text = $state('');
	let picked = $state('');
	let day = $state('2026-11-27');
	let noDay = $state('');
	let at = $state('08:30');
	let yes = $state(true);
	let several = $state(['Reading']);
	let paper = $state('A4');
	let on = $state(true);
	let view = $state('table');
	let blocks = $state(['1', '3']);
	let tab = $state('items');
	let points = $state(60);
	let open = $state(false);
	let said = $state('');
	let page = $state(2);
	let sections = $state(['0']);
	const found = $derived(STANDARDS.filter((s) => s.label.toLowerCase().includes(text.toLowerCase())));

	async function ask() {
		const yes = await sure({ title: 'Delete “Fall reading 6”?', says: 'Its file is deleted.', yes: 'Delete' });
		said = yes ? 'deleted' : 'canceled';
	}
</script>

{#snippet shown(title: string, content: import('svelte').Snippet)}
	<Panel label={title} headed class="flex flex-col gap-3 p-4">
		{@render content()}
	</Panel>
{/snippet}

<Finding of="Parts" class="mb-3">Every control of the pages, with its states.</Finding>
<div class="columns-3 gap-3 text-[14px] *:mb-3 *:break-inside-avoid">
	{#snippet buttons()}
		<div class="flex flex-wrap gap-2">
			<Button kind="primary">Save</Button><Button>Preview</Button><Button kind="quiet">Cancel</Button>
			<Button kind="grave">Delete</Button><Button kind="primary" disabled>Save</Button><Button disabled>Preview</Button>
		</div>
	{/snippet}
	{@render shown('Buttons', buttons)}
	{#snippet selects()}
		<label class="field">Subject<Select bind:value={subject} choices={SUBJECTS} /></label>
		<label class="field"
			>Nothing chosen<Select bind:value={empty} choices={SUBJECTS} placeholder="Choose a subject" /></label
		>
		<label class="field">Disabled<Select value="Reading" choices={SUBJECTS} disabled /></label>
		<Select label="Subject, small" bind:value={subject} choices={SUBJECTS} small class="w-auto self-start" />
		<Combobox
			label="Standard{picked ? `: ${picked}` : ''}"
			choices={found}
			bind:text
			placeholder="two letters or more"
			onchoose={(code) => (picked = code)}
		/>
	{/snippet}
	{@render shown('Lists', selects)}
	{#snippet dates()}
		<DateField label="Day" bind:value={day} />
		<DateField label="No day yet" bind:value={noDay} />
		<DateField label="Disabled day" value="2026-11-27" disabled />
		<TimeField label="Start" bind:value={at} />
	{/snippet}
	{@render shown('Dates and times', dates)}
	{#snippet ticks()}
		<Checkbox bind:checked={yes}>large print</Checkbox>
		<Checkbox checked disabled>checked, disabled</Checkbox>
		<Checkbox disabled>disabled</Checkbox>
		<Checkboxes bind:values={several} choices={SUBJECTS} />
		<RadioGroup label="Paper size" bind:value={paper} choices={choices('A4', 'Letter')} />
		<Switch bind:checked={on}>One-letter shortcuts</Switch>
	{/snippet}
	{@render shown('Yes or no, one of, any of', ticks)}
	{#snippet views()}
		<ToggleGroup
			label="View"
			bind:value={view}
			choices={choices(['table', 'Table'], ['map', 'Map'], ['curve', 'Curve'])}
		/>
		<ToggleSet
			label="Blocks"
			bind:value={blocks}
			marked={['3']}
			choices={choices(['1', '1'], ['2', '2'], ['3', '3'])}
		/>
		<Tabs label="Parts of a form" bind:value={tab} tabs={choices(['items', 'Items'], ['coverage', 'Coverage'])}>
			{#snippet children(which)}<p class="pt-2">{which === 'items' ? 'The items.' : 'The coverage.'}</p>{/snippet}
		</Tabs>
		<Toolbar label="Actions on items"><Button>Add</Button><Button>Remove</Button></Toolbar>
		<Slider label="Watch line" bind:value={points} min={0} max={100} step={5} says="{points}%" />
	{/snippet}
	{@render shown('Views', views)}
	{#snippet over()}
		<div class="flex flex-wrap gap-2">
			<Menu
				label="More"
				entries={[
					{ label: 'Copy', does: () => (said = 'copied') },
					{ label: 'Print', does: () => (said = 'printed') },
					{ label: 'Delete', grave: true, does: ask }
				]}
			/>
			<Button onclick={() => (open = true)}>Open dialog</Button>
			<Button onclick={ask}>Ask first</Button>
			<Button onclick={() => toasts.say('3 items removed.', () => void (said = 'undone'))}>Show toast</Button>
			<Tooltip text="Opens the list of keys">
				{#snippet children(props)}<Button {...props}>With a tip</Button>{/snippet}
			</Tooltip>
			<Popover label="Who is behind it"
				>{#snippet shown()}12 students{/snippet}
				<p>Their names stand here.</p></Popover
			>
		</div>
		<p class="small" role="status">{said}</p>
		<Dialog bind:open title="New window" says="A stretch of the year in which a benchmark is given.">
			<label class="field">Window name<input class="input" value="Winter" /></label>
			<div class="mt-4 flex justify-end gap-2">
				<Button onclick={() => (open = false)}>Cancel</Button><Button kind="primary" onclick={() => (open = false)}
					>Save</Button
				>
			</div>
		</Dialog>
	{/snippet}
	{@render shown('Over the page', over)}
	{#snippet long()}
		<Progress done={340} total={1200} says="Reading answers" />
		<Progress done={0} total={0} says="Preparing pages" />
		<Pagination bind:page count={95} each={20} label="Log" />
		<Accordion bind:open={sections} sections={choices(['m', 'Mathematics'], ['r', 'Reading'])}>
			{#snippet children(which)}<p>{which === 'm' ? '34 items' : '28 items'}</p>{/snippet}
		</Accordion>
	{/snippet}
	{@render shown('Long work and long lists', long)}
</div>
