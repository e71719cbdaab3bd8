
/**
 * SHA-256 of the files below a folder, after a name in their order; and the modes 755 and 644, when that is wanted. One hash over
 * all names and hashes, where all fit into one request, says as much as the list of them when nothing is wrong.
 */
function tree_hashes(string $base, string $after, bool $modes, float $started): array
{
    $names = [];
    $walk = new RecursiveIteratorIterator(new RecursiveDirectoryIterator($base, FilesystemIterator::SKIP_DOTS), RecursiveIteratorIterator::SELF_FIRST);
    foreach ($walk as $entry) {
        if ($entry->isDir() && !$entry->isLink()) {
            if ($modes) {
                chmod($entry->getPathname(), 0755);
            }
        } else {
            $names[] = substr($entry->getPathname(), strlen($base) + 1);
        }
    }
    sort($names, SORT_STRING);
    $hashes = [];
    $done = true;
    $all = hash_init('sha256');
    foreach ($names as $name) {
        if (strcmp($name, $after) <= 0) {
            continue;
        }
        if (helper_time_is_up($started) || count($hashes) >= 4000) {
            $done = false;
            break;
        }
        if ($modes) {
            chmod($base . '/' . $name, 0644);
        }
        $hashes[$name] = hash_file('sha256', $base . '/' . $name);
        hash_update($all, $hashes[$name] . '  ./' . $name . "\0");
    }
    return ['hashes' => $hashes, 'all' => $done && $after === '' ? hash_final($all) : '', 'done' => $done];
}
