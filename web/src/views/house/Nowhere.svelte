<script lang="ts">
	const START = '/floor';
</script>

<svelte:head><title>Page not found · Normant</title></svelte:head>
<h1 class="text-xl">Page not found</h1>
<p class="mt-2">
	Go to the <a class="anchor" href={START}>floor</a>, or press <kbd>/</kbd> to find something.
</p>
