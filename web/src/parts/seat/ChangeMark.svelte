<!-- The mark of a change, by what it came from. -->
<script lang="ts">
	type Props = { cause: string; place?: string; title?: string };
	let { cause, place, title }: Props = $props();
</script>

<i class="change {cause.replaceAll(' ', '-')}" class:placed={place} style={place} {title}></i>

<style>
	.change {
		display: inline-block;
		vertical-align: middle;
		width: 9px;
		height: 9px;
		background: var(--sienna);
	}
	.placed {
		position: absolute;
		transform: translate(-50%, -50%);
	}
	.ours {
		background: var(--kelp);
		border-radius: 50%;
	}
	.version {
		background: none;
		border: 2px solid var(--muted);
		border-radius: 50%;
	}
	.facts {
		width: 3px;
		height: 13px;
		background: var(--ink);
	}
	.unread {
		background: none;
		height: 3px;
		width: 11px;
		border-block: 1px dashed var(--muted);
	}
</style>
