<script lang="ts">
	import ReportList from '../ReportList.svelte';
</script>

<svelte:head><title>Reports · Item quality · Bildung</title></svelte:head>

<div class="small mb-1"><a class="word" href="/quality">Item quality</a> · reports</div>
<h1 class="mb-3">Your reports. New ones are made where a test is looked at, under Reports.</h1>
<section class="sheet px-4 py-2" aria-label="Reports"><ReportList /></section>
