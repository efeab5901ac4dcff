<script lang="ts">
	import { api } from '$lib/api/client';
	import Ask from '$lib/parts/Ask.svelte';
	import Notice from '$lib/parts/Notice.svelte';
	import type { PageProps } from './$types';

	let { data }: PageProps = $props();
	const shown = $derived(data.shown);
</script>

<svelte:head><title>Settings · Bildung</title></svelte:head>

<h1 class="mb-3">{shown.finding}</h1>
<Notice text={shown.problem} onclose={() => (shown.problem = '')} />
{#if shown.done}<p class="sheet mb-3 px-4 py-2 text-[14px]" role="status">{shown.done}</p>{/if}
{#if shown.data}
	<div class="grid grid-cols-2 items-start gap-3 text-[14px]">
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['keep_sign_ins_days', 'keep_log_years', 'erase_departed_years', 'keep_places'])
			)}
		>
			<h2>How long things are kept</h2>
			<label class="field"
				>Sign-ins that have ended, in days<input
					class="input !w-28"
					type="number"
					min="30"
					max="3650"
					bind:value={shown.v.keep_sign_ins_days}
				/></label
			>
			<label class="field"
				>The log, in years<input
					class="input !w-28"
					type="number"
					min="1"
					max="50"
					bind:value={shown.v.keep_log_years}
				/></label
			>
			<label class="field"
				>Students who left, in years; then they are erased and their answers stay without a name. 0 is never<input
					class="input !w-28"
					type="number"
					min="0"
					max="50"
					bind:value={shown.v.erase_departed_years}
				/></label
			>
			<label class="flex items-start gap-2"
				><input type="checkbox" class="mt-0.5 size-5" bind:checked={shown.v.keep_places} /><span
					>Keep the network address that somebody signed in from</span
				></label
			>
			<button class="btn primary self-start">Keep these</button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['records_on', 'records_address', 'records_client', 'records_secret', 'records_hour'])
			)}
		>
			<h2>Records system</h2>
			<label class="field"
				>Address of its OneRoster 1.2 service<input
					class="input"
					bind:value={shown.v.records_address}
					placeholder={shown.data.standins.records
						? `empty: the stand-in at ${shown.data.standins.records}`
						: 'https://'}
				/></label
			>
			<div class="flex gap-3">
				<label class="field flex-1"
					>Client<input class="input" bind:value={shown.v.records_client} autocomplete="off" /></label
				>
				<label class="field flex-1"
					>Secret<input class="input" type="password" bind:value={shown.v.records_secret} autocomplete="off" /></label
				>
				<label class="field w-24"
					>At this hour<input class="input" type="number" min="0" max="23" bind:value={shown.v.records_hour} /></label
				>
			</div>
			<label class="flex items-center gap-2"
				><input type="checkbox" class="size-5" bind:checked={shown.v.records_on} />Ask it for changes every night</label
			>
			<button class="btn primary self-start">Keep these</button>
		</form>
		<section class="sheet" aria-label="What is known about students">
			<h2 class="border-b border-hair px-4 py-2.5">What is known about students, for comparing groups</h2>
			<table>
				<thead
					><tr><th>Attribute</th><th class="n">Students</th><th>A student's own value is seen by</th><th></th></tr
					></thead
				>
				<tbody>
					{#each shown.data.attributes as a (a.id)}
						<tr>
							<td>{a.name}</td><td class="n">{a.students}</td>
							<td
								><select
									class="input !mt-0 !w-auto"
									aria-label="Who sees {a.name}"
									value={a.seen_by}
									onchange={(e) =>
										shown.go(
											api.POST('/api/settings/attributes', { body: { name: a.name, seen_by: e.currentTarget.value } })
										)}
									><option value="coordinator">coordinators</option><option value="teacher"
										>coordinators and their teachers</option
									></select
								></td
							>
							<td class="n"
								><Ask
									quiet
									label="End it"
									question="{a.name} goes, with the values of {a.students} students."
									yes="End it"
									onyes={() =>
										shown.go(
											api.DELETE('/api/settings/attributes/{attribute_id}', {
												params: { path: { attribute_id: a.id }, query: { students: a.students } }
											})
										)}
								/></td
							>
						</tr>
					{:else}<tr
							><td colspan="4" class="text-ink2"
								>Nothing yet. Values come with a sheet, or with Set many at once under Groups and needs.</td
							></tr
						>{/each}
				</tbody>
			</table>
			<form
				class="flex items-end gap-2 border-t border-hair p-3"
				onsubmit={(e) => (
					e.preventDefault(),
					void shown.go(api.POST('/api/settings/attributes', { body: shown.fresh })).then(() => (shown.fresh.name = ''))
				)}
			>
				<label class="field flex-1"
					>New attribute<input class="input" bind:value={shown.fresh.name} maxlength="40" required /></label
				>
				<button class="btn">Add it</button>
			</form>
		</section>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (
				e.preventDefault(),
				void shown.keep(['provider_on', 'provider_name', 'provider_address', 'provider_client', 'provider_secret'])
			)}
		>
			<h2>Sign-in provider (OpenID Connect)</h2>
			<label class="field"
				>Its address, as it calls itself<input
					class="input"
					bind:value={shown.v.provider_address}
					placeholder={shown.data.standins.provider
						? `empty: the stand-in at ${shown.data.standins.provider}`
						: 'https://'}
				/></label
			>
			<div class="flex gap-3">
				<label class="field flex-1"
					>Client<input class="input" bind:value={shown.v.provider_client} autocomplete="off" /></label
				>
				<label class="field flex-1"
					>Secret<input class="input" type="password" bind:value={shown.v.provider_secret} autocomplete="off" /></label
				>
				<label class="field flex-1">Called at the door<input class="input" bind:value={shown.v.provider_name} /></label>
			</div>
			<label class="flex items-center gap-2"
				><input type="checkbox" class="size-5" bind:checked={shown.v.provider_on} />Offer it at the door</label
			>
			<p class="small">
				A school account is linked to a person at its first sign-in: at once where its subject is the number in the
				records, else when you confirm it on the person's page. Nobody is made by signing in.
			</p>
			<button class="btn primary self-start">Keep these</button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['backup_hour', 'backups_kept']))}
		>
			<h2>Backups</h2>
			<p class={shown.data.backups.failure ? 'border-l-4 border-vermilion pl-3' : ''}>
				{shown.data.backups.finding}{#if shown.data.backups.failure}<span class="small block"
						>{shown.data.backups.failure}</span
					>{/if}
			</p>
			<div class="flex gap-3">
				<label class="field"
					>Every night at this hour<input
						class="input !w-20"
						type="number"
						min="0"
						max="23"
						bind:value={shown.v.backup_hour}
					/></label
				>
				<label class="field"
					>How many are kept; 0 makes none<input
						class="input !w-24"
						type="number"
						min="0"
						max="400"
						bind:value={shown.v.backups_kept}
					/></label
				>
			</div>
			{#if shown.data.backups.backups.length}
				<table>
					<thead><tr><th>Backup</th><th class="n">Answers</th><th class="n">Size</th><th></th></tr></thead><tbody>
						{#each shown.data.backups.backups.slice(0, 7) as b (b.name)}<tr
								><td>{b.name}</td><td class="n">{b.answers.toLocaleString('en-US')}</td><td class="n"
									>{Math.max(1, Math.round(b.bytes / 2 ** 20))} MB</td
								><td class="small">{b.problem || 'verified'}</td></tr
							>{/each}
					</tbody>
				</table>
			{/if}
			<p class="small">
				They are in <code class="select-all">{shown.data.backups.folder}</code> on this server. Copy them to another machine;
				docs/running-a-server.md says how, and how to restore one.
			</p>
			<button class="btn primary self-start">Save</button>
		</form>
		<form
			class="sheet flex flex-col gap-3 p-4"
			onsubmit={(e) => (e.preventDefault(), void shown.keep(['site_address']))}
		>
			<h2>Address of this site</h2>
			<label class="field"
				>What students type or point a camera at; test tickets and code lists carry it<input
					class="input"
					bind:value={shown.v.site_address}
					placeholder="https://bildung.example.org"
				/></label
			>
			<button class="btn primary self-start">Save</button>
		</form>
	</div>
{/if}
