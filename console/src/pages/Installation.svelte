<script lang="ts">
	import { route } from '../router';
	import SheetPage from '../parts/SheetPage.svelte';

	const id = $derived(route.params.id ?? '');
</script>

{#key id}<SheetPage {id} />{/key}
