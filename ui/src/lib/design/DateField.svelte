<script lang="ts">
	import { DatePicker } from 'bits-ui';
	import { formats } from '$lib/words/formats.svelte';
	import { dateOf, isoOf } from './dates';

	/** A day, typed or taken from a month; written and read as the district writes dates. */
	let {
		label,
		value = $bindable(),
		min,
		max,
		required = false,
		disabled = false,
		hidden = false,
		onchange = () => {}
	}: {
		label: string;
		/** 2026-11-27; empty while there is none. */
		value: string;
		min?: string;
		max?: string;
		required?: boolean;
		disabled?: boolean;
		/** The label is read aloud only, as in a table. */
		hidden?: boolean;
		onchange?: (value: string) => void;
	} = $props();

	function set(to: { toString(): string } | undefined) {
		const iso = isoOf(to);
		if (iso === (value ?? '')) return;
		value = iso;
		onchange(iso);
	}
</script>

<div class="field">
	<DatePicker.Root
		bind:value={() => dateOf(value), set}
		minValue={dateOf(min)}
		maxValue={dateOf(max)}
		locale={formats.locale}
		weekStartsOn={formats.weekStart}
		weekdayFormat="short"
		fixedWeeks
		{required}
		{disabled}
	>
		<DatePicker.Label class={hidden ? 'sr-only' : ''}>{label}</DatePicker.Label>
		<div class="input dated {disabled ? 'off' : ''}">
			<DatePicker.Input class="flex flex-1">
				{#snippet children({ segments })}
					{#each segments as { part, value }, at (at)}
						<DatePicker.Segment {part} class={part === 'literal' ? 'text-ink2' : 'segment'}>{value}</DatePicker.Segment>
					{/each}
				{/snippet}
			</DatePicker.Input>
			<DatePicker.Trigger
				class="flex size-6 items-center justify-center rounded hover:bg-wash"
				aria-label="{label}: open calendar"
			>
				<svg viewBox="0 0 14 14" width="14" height="14" aria-hidden="true"
					><path d="M1 3h12v10H1zM1 6h12M4 1v3M10 1v3" /></svg
				>
			</DatePicker.Trigger>
		</div>
		<DatePicker.Portal>
			<DatePicker.Content class="list p-3" sideOffset={4} collisionPadding={8}>
				<DatePicker.Calendar>
					{#snippet children({ months, weekdays })}
						<DatePicker.Header class="mb-1 flex items-center justify-between">
							<DatePicker.PrevButton class="btn quiet" aria-label="Previous month">‹</DatePicker.PrevButton>
							<DatePicker.Heading class="text-[14px] font-semibold" />
							<DatePicker.NextButton class="btn quiet" aria-label="Next month">›</DatePicker.NextButton>
						</DatePicker.Header>
						{#each months as month (month.value.toString())}
							<DatePicker.Grid class="month">
								<DatePicker.GridHead>
									<DatePicker.GridRow>
										{#each weekdays as weekday, at (at)}<DatePicker.HeadCell>{weekday.slice(0, 2)}</DatePicker.HeadCell
											>{/each}
									</DatePicker.GridRow>
								</DatePicker.GridHead>
								<DatePicker.GridBody>
									{#each month.weeks as week, at (at)}
										<DatePicker.GridRow>
											{#each week as date (date.toString())}
												<DatePicker.Cell {date} month={month.value}><DatePicker.Day class="day" /></DatePicker.Cell>
											{/each}
										</DatePicker.GridRow>
									{/each}
								</DatePicker.GridBody>
							</DatePicker.Grid>
						{/each}
					{/snippet}
				</DatePicker.Calendar>
			</DatePicker.Content>
		</DatePicker.Portal>
	</DatePicker.Root>
</div>
