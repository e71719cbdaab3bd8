<script lang="ts">
	/** A secret: dots until it is shown; the text is not in the page before. */
	let { text, show, what }: { text: string | undefined; show: () => void; what: string } = $props();
	let copied = $state(false);

	async function copy(): Promise<void> {
		if (text === undefined) return;
		await navigator.clipboard.writeText(text);
		copied = true;
		setTimeout(() => (copied = false), 1500);
	}
</script>

<span class="secret">
	{#if text === undefined}
		<span class="dots" aria-label="hidden">••••••••</span>
		<button class="btn btn-small btn-lesser" type="button" onclick={show} aria-label="Show {what}"
			>Show</button
		>
	{:else}
		<span class="code shown">{text}</span>
		<button
			class="btn btn-small btn-lesser"
			type="button"
			onclick={() => void copy()}
			aria-label="Copy {what}"
		>
			{copied ? 'Copied' : 'Copy'}
		</button>
	{/if}
</span>

<style>
	.secret {
		display: flex;
		flex-wrap: wrap;
		align-items: center;
		gap: 0.3rem 0.6rem;
	}
	.shown {
		background: color-mix(in oklab, var(--heed) 14%, transparent);
		padding: 0.1rem 0.35rem;
		user-select: all;
	}
	.dots {
		letter-spacing: 0.1em;
		color: var(--soft);
	}
</style>
