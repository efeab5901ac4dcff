<script lang="ts">
	import type { Schemas } from '$lib/api/client';
	import { day, flagWords, percent, short } from '$lib/words/show';

	/** What an item did each time it was sat: the share that got it with its interval, the latest at the top; and what was decided about it. */
	let {
		uses,
		version,
		verdicts = []
	}: { uses: Schemas['Use'][]; version: number; verdicts?: Schemas['VerdictLine'][] } = $props();
	const x = (share: number) => 4 + share * 112;
</script>

<div class="mt-3 border-t border-hair pt-2">
	{#each verdicts as v, at (v.id)}
		<p class="mb-1.5 text-[13px] {at ? 'text-ink2' : ''}">
			<b class="font-semibold">{v.words}</b>{v.reason ? `: ${v.reason}` : ''}
			<span class="small">{v.by}, {day(v.at)}{v.where ? `, after ${v.where}` : ''}</span>
		</p>
	{/each}
	{#if uses.length}
		<div class="small mb-1">Given {uses.length === 1 ? 'once' : `${uses.length} times`}</div>
		{#each uses as u (u.form_id + '/' + u.window_id)}
			<div class="border-b border-hair2 py-1.5 text-[13px] last:border-b-0">
				<div class="flex items-center gap-2">
					<a class="word min-w-0 flex-1 truncate" href="/quality/look?form={u.form_id}&window={u.window_id}"
						>{u.form}, {u.window} {u.at.slice(0, 4)}</a
					>
					<svg width="120" height="16" role="img" aria-label="{percent(u.p)} of {u.n} correct">
						<path d="M4 8H116" stroke="var(--color-hair)" />
						{#if u.p_ci95}<path
								d="M{x(u.p_ci95[0] ?? 0)} 8H{x(u.p_ci95[1] ?? 0)}"
								stroke="var(--color-petrol)"
								stroke-width="2"
							/>{/if}
						{#if u.p !== null}<circle cx={x(u.p)} cy="8" r="4" fill="var(--color-petrol)" />{/if}
					</svg>
				</div>
				<div class="small">
					{#if u.p === null}fewer than five students; not reported{:else}{percent(u.p)} of {u.n} correct, r (rest) {short(
							u.r_rest
						)}{u.wrong && u.wrong_share !== null
							? `; most chosen wrong answer ${u.wrong}, ${percent(u.wrong_share)}`
							: ''}{/if}{u.version !== version ? `; version ${u.version}, the text was another then` : ''}
				</div>
				{#each u.flags.filter((f, at) => f.weight !== 'note' && u.flags.findIndex((g) => g.flag === f.flag) === at) as f, at (at)}<span
						class="mr-2 text-[12.5px] {f.weight === 'problem' ? 'notch' : ''}">{flagWords(f.flag ?? '')}</span
					>{/each}
			</div>
		{/each}
	{:else}<p class="small">Not used yet. Statistics appear here after a session with this item closes.</p>{/if}
</div>
