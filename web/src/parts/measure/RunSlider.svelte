<!-- Runs one by one, by keys: the first place is none. -->
<script lang="ts">
	type Props = { words: string[]; place: number; onslide: (to: number) => void };
	let { words, place, onslide }: Props = $props();
</script>

<label class="slider quiet">
	Run
	<input
		type="range"
		min="0"
		max={words.length}
		value={place}
		aria-valuetext={place ? words[place - 1] : 'no run selected'}
		oninput={(event) => onslide(event.currentTarget.valueAsNumber)}
	/>
	<span>{place ? `${place} of ${words.length}` : `${words.length}; select one to see the machine load`}</span>
</label>

<style>
	.slider {
		display: flex;
		gap: 0.8rem;
		align-items: center;
	}
	input {
		flex: 1;
		max-width: 28rem;
		height: 24px;
	}
</style>
