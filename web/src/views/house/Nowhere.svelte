<script lang="ts">
	const START = '/floor';
</script>

<svelte:head><title>Nothing here · Normant</title></svelte:head>
<h1 class="text-xl">There is nothing at this address</h1>
<p class="mt-2">
	Go to the <a class="anchor" href={START}>floor</a>, or press <kbd>/</kbd> to find something.
</p>
