<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Checkbox from '$lib/design/Checkbox.svelte';
	import Finding from '$lib/design/Finding.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import SchoolHead from '../SchoolHead.svelte';
	import Amount from './Amount.svelte';
	import Bells from './Bells.svelte';
	import Hours from './Hours.svelte';
	import { Resources } from './resources.svelte';
	import type { PageProps } from './$types';

	/** Rooms, carts, bell schedules and hours of a school: asked for only where a plan needs them. */
	let { data }: PageProps = $props();
	let problem = $derived(data.problem);
	const shown = $derived(data.found ? new Resources(data.found) : null);
	const page = $derived(shown?.page ?? null);

	function paste(e: ClipboardEvent) {
		if (shown?.paste(e.clipboardData?.getData('text/plain') ?? '')) e.preventDefault();
	}
</script>

<div class="small mb-1">
	<a class="word" href="/calendar?school={page?.school ?? ''}">Calendar</a> ·
	<a class="word" href="/calendar/timetable?school={page?.school ?? ''}">Class timetable</a>
</div>
{#if shown && page}
	<SchoolHead
		of="Resources"
		path="/calendar/resources"
		{page}
		hint="CSV or XLSX with headings: room, seats, devices, shared; or cart, devices; or a class timetable."
		paste={'room\tseats\tdevices\tshared\nLab 1\t28\t28\tyes'}
		reload="bildung:resources"
		bind:problem={shown.problem}
	>
		{#if page.may}<Button kind="primary" disabled={shown.busy || !shown.roomsChanged} onclick={() => shown?.saveRooms()}
				>Save rooms and carts</Button
			>{/if}
	</SchoolHead>
	<div class="grid grid-cols-[1fr_330px] gap-3 max-[1100px]:grid-cols-1">
		<section class="sheet px-4 py-3" aria-labelledby="rooms">
			<div class="mb-1 flex items-baseline gap-3">
				<h2 id="rooms">Rooms</h2>
				<span class="small">Rows copied from a spreadsheet can be pasted: name, seats, devices.</span>
			</div>
			<!-- svelte-ignore a11y_no_noninteractive_element_interactions -->
			<table aria-label="Rooms" onpaste={paste}>
				<thead><tr><th>Room</th><th>Seats</th><th>Devices</th><th>Any class may test here</th><th></th></tr></thead>
				<tbody>
					{#each shown.rooms as room, n (n)}
						<tr>
							<td
								><input
									class="input small-input w-[170px]"
									aria-label="Room"
									bind:value={room.name}
									disabled={!page.may}
								/></td
							>
							<Amount label="Seats of {room.name}" bind:value={room.seats} least={1} disabled={!page.may} />
							<Amount label="Devices of {room.name}" bind:value={room.devices} least={0} disabled={!page.may} />
							<td
								><Checkbox
									label="Any class may test in {room.name}"
									bind:checked={room.shared}
									disabled={!page.may}
								/></td
							>
							<td class="n"
								>{#if page.may}<Button
										kind="quiet"
										aria-label="Remove {room.name}"
										onclick={() => shown?.rooms.splice(n, 1)}>Remove</Button
									>{/if}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if page.may}
				<div class="mt-2 flex items-center gap-3">
					<Button onclick={() => shown?.rooms.push({ id: null, name: '', seats: 24, devices: 0, shared: true })}
						>Add room</Button
					>
					{#if page.own_rooms.length}<Button
							kind="quiet"
							onclick={() =>
								page.own_rooms.forEach((name) =>
									shown?.rooms.push({ id: null, name, seats: 26, devices: 0, shared: false })
								)}>Add the {page.own_rooms.length} rooms of classes</Button
						>{/if}
				</div>
			{/if}
		</section>
		<section class="sheet self-start px-4 py-3" aria-labelledby="carts">
			<h2 id="carts" class="mb-1">Carts</h2>
			<table aria-label="Carts">
				<thead><tr><th>Cart</th><th>Devices</th><th></th></tr></thead>
				<tbody>
					{#each shown.carts as cart, n (n)}
						<tr>
							<td
								><input
									class="input small-input w-[120px]"
									aria-label="Cart"
									bind:value={cart.name}
									disabled={!page.may}
								/></td
							>
							<Amount label="Devices on {cart.name}" bind:value={cart.devices} least={1} disabled={!page.may} />
							<td class="n"
								>{#if page.may}<Button
										kind="quiet"
										aria-label="Remove {cart.name}"
										onclick={() => shown?.carts.splice(n, 1)}>Remove</Button
									>{/if}</td
							>
						</tr>
					{/each}
				</tbody>
			</table>
			{#if page.may}<Button
					class="mt-2"
					onclick={() => shown?.carts.push({ id: null, name: `Cart ${shown.carts.length + 1}`, devices: 24 })}
					>Add cart</Button
				>{/if}
		</section>
	</div>
	<Bells {shown} />
	<Hours {shown} />
{:else}
	<Finding of="Resources" station="Calendar">Rooms, bell schedules and hours are not open to you.</Finding>
	<Notice text={problem} onclose={() => (problem = '')} />
{/if}
