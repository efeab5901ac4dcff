<script lang="ts">
	import { scrollable } from '$lib/parts/scrollable';
	import { goto } from '$app/navigation';
	import { page } from '$app/state';
	import { api, body, said, type Schemas } from '$lib/api/client';
	import Notice from '$lib/parts/Notice.svelte';
	import { staff } from '$lib/state/staff.svelte';
	import { day, percent, reliefColor, short } from '$lib/words/show';

	/** Every test that was sat in the window, what wants a look first. */
	let data = $state<Schemas['SatListOut'] | null>(null);
	let problem = $state('');
	let asked = 0;
	const chosen = $derived(staff.window(page.url.searchParams.get('window')));

	$effect(() => {
		if (staff.calendar) void load(chosen?.id);
	});

	async function load(window: string | undefined) {
		try {
			const mine = ++asked;
			const answer = await body(api.GET('/api/quality', { params: { query: { window } } }));
			if (mine === asked) data = answer;
		} catch (error) {
			problem = said(error);
		}
	}
	const path = (t: Schemas['SatOut']) => `/quality/look?form=${t.form_id}&window=${t.window_id}`;
</script>

<svelte:head><title>Item quality · Bildung</title></svelte:head>

<div class="small mb-1">{chosen ? `${chosen.name}, ${day(chosen.start)} to ${day(chosen.end)}` : ''}</div>
<div class="mb-3 flex items-start gap-3"><h1 class="flex-1">{data?.finding ?? ''}</h1><a class="btn quiet" href="/quality/verdicts">Verdicts on items</a><a class="btn quiet" href="/quality/reports">Reports</a></div>
<Notice text={problem} />
{#if data?.tests.length}
	<section {@attach scrollable} class="sheet frozen">
		<table>
			<thead><tr><th>Test</th><th class="n">Sat</th><th class="n">Absent</th><th class="n">Reliability</th><th>Items sound</th><th>Got it, hardest item to easiest</th><th>First of all</th></tr></thead>
			<tbody>
				{#each data.tests as t (t.form_id + t.window_id)}
					<tr tabindex="-1" data-row class="h-[42px]" onclick={() => goto(path(t))}>
						<td class="whitespace-nowrap"><a class="word" href={path(t)}>{t.form}</a></td>
						<td class="n">{t.sat}</td>
						<td class="n">{t.absent}</td>
						<td class="n">{short(t.alpha)}</td>
						<td>
							<span class="inline-flex items-center gap-2 whitespace-nowrap" title="{t.sound} sound, {t.look} want a look, {t.items - t.sound - t.look} not examined">
								<span class="inline-flex h-3 w-[110px] border border-relief3">
									<span class="bg-relief5" style:width="{(t.sound / t.items) * 100}%"></span>
									<span class="bg-relief1" style:width="{(t.look / t.items) * 100}%"></span>
								</span>
								{t.sound} of {t.items}
							</span>
						</td>
						<td>
							<svg width={t.profile.length * 5 + 2} height="32" role="img" aria-label="from {percent(t.profile[0] ?? null)} to {percent(t.profile.at(-1) ?? null)}" class="block">
								{#each t.profile as p, at (at)}<rect x={1 + at * 5} y={30 - p * 28} width="4" height={p * 28} fill={reliefColor(p)} />{/each}
								<path d="M0 30.500H{t.profile.length * 5 + 2}" stroke="var(--color-ink2)" /><path d="M0 {30 - 0.6 * 28}H{t.profile.length * 5 + 2}" stroke="var(--color-ink2)" stroke-dasharray="2 3" stroke-width=".7" />
							</svg>
						</td>
						<td class="whitespace-normal">
							{#if t.first[0]?.urgent}<span class="notch">{t.first[0].text}</span>{t.first[1]?.text ?? ''}
							{:else if t.look}{t.look} {t.look === 1 ? 'item wants' : 'items want'} a look
							{:else}<span class="text-ink2">nothing stands out</span>{/if}
						</td>
					</tr>
				{/each}
			</tbody>
		</table>
	</section>
{:else if data}
	<div class="sheet p-6 text-ink2">Tests of this window will stand here once somebody has handed in. <a class="word" href="/sessions">To the sessions</a>.</div>
{/if}
