<script lang="ts">
	import Button from '$lib/design/Button.svelte';
	import Sheet from '$lib/sitting/question/Sheet.svelte';
	import type { Shown } from '$lib/sitting/question/answer';

	/** A question to try out how answering works, before any time runs. Nothing of it is kept. */
	let { ondone }: { ondone: () => void } = $props();
	const asked = {
		body: '<p><b>Practice.</b> Nothing here counts.</p>',
		parts: [
			{
				id: 'a',
				type: 'choice',
				prompt: '<p>Which of these is a day of the week?</p>',
				most: 1,
				shuffled: false,
				options: ['Blue', 'Tuesday', 'Seven', 'Apple'].map((html, at) => ({ id: 'ABCD'[at]!, html }))
			},
			{
				id: 'b',
				type: 'entry',
				prompt: '<p>Type the number that comes after 9.</p>',
				numeric: true,
				before: '',
				after: ''
			}
		],
		tools: []
	} as unknown as Shown;
	let answer = $state('');
</script>

<div class="text-[18px]">
	<Sheet shown={asked} stimulus={null} {answer} name="practice" crossing onanswer={(text) => (answer = text)} />
	<p class="mt-4 text-[16px] text-ink2">
		In the test, answers are saved as you give them. You can go back to a question, unless the test says otherwise.
	</p>
	<Button kind="primary" class="mt-4 min-h-[48px] px-6 text-[17px]" onclick={ondone}>Done practicing</Button>
</div>
