<script lang="ts">
	import Run from '$lib/sitting/Run.svelte';
	import { Sitting } from '$lib/sitting/sitting.svelte';
</script>

<Run sitting={new Sitting()} />
