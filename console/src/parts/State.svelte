<script lang="ts">
	import { JOB_WORDS } from '../lib/legs';

	/** A job's state as a word; the colour only helps. */
	let { state: name }: { state: string } = $props();
	const word = $derived(JOB_WORDS[name] ?? name);
</script>

<span class="state {name}">{word}</span>

<style>
	.state {
		font-weight: 640;
		white-space: nowrap;
		color: var(--soft);
	}
	.running,
	.undoing {
		color: var(--act);
	}
	.paused,
	.waiting {
		color: var(--heed);
	}
	.done {
		color: var(--well);
	}
	.failed {
		color: var(--fail);
	}
</style>
