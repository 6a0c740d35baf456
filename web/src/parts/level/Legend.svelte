<script lang="ts">
	import Level from './Level.svelte';

	const SHAPES = [
		{ status: 'in-norm', distance: null, says: 'in norm' },
		{ status: 'off-norm', distance: -2, says: 'below the norm' },
		{ status: 'off-norm', distance: 2, says: 'above the norm' },
		{ status: 'off-norm', distance: null, says: 'differs' },
		{ status: 'waived', distance: null, says: 'waived' },
		{ status: 'unread', distance: null, says: 'unread' },
		{ status: 'no-norm', distance: null, says: 'no norm' }
	];
</script>

<footer class="quiet flex flex-wrap items-center gap-x-6 gap-y-1 border-t border-hair pt-3">
	<span><b>E</b> engine <b>M</b> memory <b>S</b> stores <b>P</b> power <b>D</b> driver</span>
	{#each SHAPES as shape (shape.says)}
		<span class="flex items-center gap-2">
			<span class="w-16"
				><Level status={shape.status} distance={shape.distance} words={shape.says} size="small" /></span
			>
			<span aria-hidden="true">{shape.says}</span>
		</span>
	{/each}
</footer>
