
/**
 * SHA-256 of one file, '' when it cannot be read: by OpenSSL where PHP has it, which takes half the time or less, but wants the content
 * in memory.
 */
function tree_hash(string $path): string
{
    if (function_exists('openssl_digest') && filesize($path) <= 4194304) {
        $content = file_get_contents($path);
        return $content === false ? '' : openssl_digest($content, 'sha256');
    }
    return (string) hash_file('sha256', $path);
}

/**
 * SHA-256 of the files below a folder, after a name in their order, as far as the time allows; and the modes 755 and 644, when that
 * is wanted. One hash over names and hashes up to the last one says as much as the list of them when nothing is wrong.
 */
function tree_hashes(string $base, string $after, bool $modes, bool $list, float $started): array
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
    $last = $after;
    $done = true;
    $all = hash_init('sha256');
    foreach ($names as $name) {
        if (strcmp($name, $after) <= 0) {
            continue;
        }
        // One at least, however slow the host is.
        if (($last !== $after && helper_time_is_up($started)) || ($list && count($hashes) >= 4000)) {
            $done = false;
            break;
        }
        if ($modes) {
            chmod($base . '/' . $name, 0644);
        }
        $hash = tree_hash($base . '/' . $name);
        if ($list) {
            $hashes[$name] = $hash;
        }
        hash_update($all, $hash . '  ./' . $name . "\0");
        $last = $name;
    }
    return ['hashes' => (object) $hashes, 'all' => hash_final($all), 'last' => $last, 'done' => $done];
}
