<!-- The moment that is shown, up to thirty days back, hour by hour. -->
<script lang="ts">
	import { moment } from '../../model/words/moment';

	type Props = { at: string; onchoose: (at: string) => void };
	let { at, onchoose }: Props = $props();

	const HOURS = 30 * 24;
	const HOUR = 3_600_000;
	const ago = $derived(at ? Math.round((Date.now() - Date.parse(at)) / HOUR) : 0);

	function slide(event: Event & { currentTarget: HTMLInputElement }): void {
		const hours = HOURS - event.currentTarget.valueAsNumber;
		onchoose(hours ? new Date(Date.now() - hours * HOUR).toISOString() : '');
	}
</script>

<label class="quiet flex items-center gap-2"
	>as of
	<input
		type="range"
		min="0"
		max={HOURS}
		step="1"
		value={HOURS - ago}
		onchange={slide}
		aria-valuetext={at ? moment(at) : 'now'}
	/>
	<span class="value w-24">{at ? moment(at) : 'now'}</span></label
>
