<!-- One take: one large button that starts and stops, then what was seen. -->
<script lang="ts">
	type Props = {
		plays: boolean;
		take: number;
		needed: number;
		busy: boolean;
		onnote: (seconds: number, dropped: number) => Promise<boolean>;
	};
	let { plays, take, needed, busy, onnote }: Props = $props();

	const TICK = 100;
	let begun = $state<number>();
	let seconds = $state<number>();
	let now = $state(0);
	let dropped = $state(0);
	const running = $derived(begun !== undefined && seconds === undefined);
	const spent = $derived(begun === undefined ? 0 : Math.max(0, now - begun) / 1000);

	$effect(() => {
		if (!running) return;
		const timer = setInterval(() => (now = performance.now()), TICK);
		return () => clearInterval(timer);
	});

	function press(): void {
		const at = performance.now();
		if (begun === undefined) [begun, now] = [at, at];
		else seconds = (at - begun) / 1000;
	}

	function anew(): void {
		[begun, seconds, dropped] = [undefined, undefined, 0];
	}

	async function note(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		if (seconds !== undefined && !(await onnote(seconds, dropped))) anew();
	}
</script>

<p class="quiet">
	Take {take + 1} of {needed}{take + 1 < needed ? ' (warm-up, not counted)' : ''}
</p>
{#if seconds === undefined}
	<button class="do large" onclick={press}>{running ? 'Stop' : 'Start'}</button>
	<p class="mt-2 text-center" role="timer" aria-live="off">
		{running ? `${spent.toFixed(1)} s` : 'Press when playback starts'}
	</p>
{:else}
	<form class="grid gap-4" onsubmit={note}>
		<p class="text-[1.15rem]">Duration: {seconds.toFixed(1)} s.</p>
		{#if plays}
			<label class="grid gap-1">
				Frames dropped
				<input class="field many" type="number" inputmode="numeric" min="0" required bind:value={dropped} />
			</label>
		{/if}
		<button class="do large" disabled={busy}>Save take</button>
		<button type="button" class="may" onclick={anew}>Repeat take</button>
	</form>
{/if}

<style>
	.large {
		width: 100%;
		min-height: 5rem;
		font-size: 1.25rem;
	}
	.many {
		font-size: 1.5rem;
		min-height: 3rem;
	}
</style>
