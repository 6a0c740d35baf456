<!-- Reference clips: what jobs decode, everywhere the same. -->
<script lang="ts">
	import { createQuery } from '@tanstack/svelte-query';
	import { write } from '../../api/actions';
	import { ask } from '../../api/queries';
	import { storage } from '../../model/words/sizes';
	import { moment } from '../../model/words/moment';
	import { Acts } from '../../state/acts.svelte';
	import { session } from '../../state/shell/session.svelte';
	import MeasureTabs from '../../parts/measure/MeasureTabs.svelte';
	import Ask from '../../parts/ui/Ask.svelte';
	import Refused from '../../parts/ui/Refused.svelte';

	const clips = createQuery(ask.clips);
	const acts = new Acts('clip');
	let name = $state('');
	let codec = $state('');
	let width = $state('');
	let height = $state('');
	let files = $state<FileList>();

	async function keep(event: SubmitEvent): Promise<void> {
		event.preventDefault();
		const file = files?.[0];
		if (file && (await acts.do(() => write.keepClip({ name, codec, width, height }, file))))
			[name, codec] = ['', ''];
	}
</script>

<svelte:head><title>Reference clips · Normant</title></svelte:head>
<h1 class="mb-2 text-2xl">Reference clips</h1>
<MeasureTabs />
<div class="grid grid-cols-1 gap-x-12 gap-y-8 lg:grid-cols-[minmax(0,1fr)_18rem]">
	<div>
		<Ask of={clips}>
			{#snippet children(list)}
				<ul>
					{#each list.items as clip (clip.id)}
						<li
							class="grid grid-cols-1 gap-x-4 border-t border-hair py-2 md:grid-cols-[minmax(0,1fr)_15rem_5rem_9rem_6rem]"
						>
							<span class="font-semibold">{clip.name}</span>
							<span class="value">{clip.codec}{clip.width ? `, ${clip.width} x ${clip.height}` : ''}</span>
							<span class="quiet">{storage(clip.size)}</span>
							<span class="quiet">{clip.kept_by}, {moment(clip.kept_at)}</span>
							{#if session.may('publish') && !clip.trials}
								<button class="quiet text-left" onclick={() => acts.do(() => write.dropClip(clip.id))}
									>Delete clip</button
								>
							{:else}
								<span class="quiet">{clip.trials ? `${clip.trials} trials` : ''}</span>
							{/if}
						</li>
					{:else}
						<li class="border-t border-hair py-6">
							No clips yet. Upload a few seconds of typical production media. Agents download a clip once,
							verify it, and decode it in trials.
						</li>
					{/each}
				</ul>
			{/snippet}
		</Ask>
		<Refused {acts} class="mt-2" />
	</div>
	{#if session.may('publish')}
		<form class="grid grid-cols-1 content-start gap-3" onsubmit={keep}>
			<h2 class="text-lg">Add clip</h2>
			<label class="grid gap-1">Name <input class="field" required maxlength="80" bind:value={name} /></label>
			<label class="grid gap-1">
				Codec
				<input
					class="field"
					required
					placeholder="such as hevc/10/422"
					pattern="[a-z0-9]+/[0-9]+/4[0-4][0-4]"
					bind:value={codec}
				/>
			</label>
			<fieldset class="flex items-end gap-3">
				<label class="grid gap-1"
					>Width <input
						class="field w-24"
						inputmode="numeric"
						pattern="[0-9]+"
						required
						bind:value={width}
					/></label
				>
				<label class="grid gap-1"
					>Height <input
						class="field w-24"
						inputmode="numeric"
						pattern="[0-9]+"
						required
						bind:value={height}
					/></label
				>
				<span class="quiet pb-1">pixels</span>
			</fieldset>
			<label class="grid gap-1">File <input class="field" type="file" required bind:files /></label>
			<button class="do justify-self-start" disabled={acts.busy}>Save clip</button>
		</form>
	{/if}
</div>
