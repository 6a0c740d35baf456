<!-- What effects, proxies and renders ahead cost in this house, as it is written. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../../api/actions';
	import { ask } from '../../../api/queries';
	import { moment } from '../../../model/words/moment';
	import { Acts } from '../../../state/acts.svelte';
	import { session } from '../../../state/shell/session.svelte';
	import Ask from '../../ui/Ask.svelte';
	import Refused from '../../ui/Refused.svelte';

	const effects = createQuery(ask.effects);
	const acts = new Acts('timeline');
	let written = $state<string>();
	const EXAMPLE = 'format = "normant-effects/1"\n\n[effects.blur]\ngpu = 90\ncpu = 14';

	async function keep(base: number): Promise<void> {
		const text = written;
		if (text !== undefined && (await acts.do(() => write.keepEffects(text, base)))) written = undefined;
	}
</script>

<details class="mt-8">
	<summary class="cursor-pointer"><h2 class="inline text-lg">Cost of effects</h2></summary>
	<Ask of={effects}>
		{#snippet children(found)}
			<p class="quiet my-2">
				Frames per second at the size of the timeline, on <span class="value">cpu</span>, any
				<span class="value">gpu</span>, or the model of one.
				{#if found.kept_at}{found.kept_by}, {moment(found.kept_at)}.{/if}
			</p>
			<textarea
				class="field value w-full"
				rows="16"
				spellcheck="false"
				aria-label="Cost of effects, TOML"
				placeholder={EXAMPLE}
				readonly={!session.may('publish')}
				value={written ?? found.text}
				oninput={(event) => (written = event.currentTarget.value)}></textarea>
			{#if written !== undefined && written !== found.text}
				<p class="mt-2 flex gap-3">
					<button class="do" disabled={acts.busy} onclick={() => keep(found.id)}>Save</button>
					<button class="may" onclick={() => (written = undefined)}>Cancel</button>
				</p>
			{/if}
			<Refused {acts} class="mt-2" />
		{/snippet}
	</Ask>
</details>
