<script lang="ts">
	import { route } from '../router';
	import JobPage from '../parts/JobPage.svelte';

	const id = $derived(route.params.id ?? '');
</script>

{#key id}<JobPage {id} />{/key}
