$request = helper_request();
$started = microtime(true);
$folder = isset($request['folder']) ? (int) $request['folder'] : 0;
$base = helper_path($folder, isset($request['inside']) ? (string) $request['inside'] : '');
$after = isset($request['after']) ? (string) $request['after'] : '';
$modes = !empty($request['modes']);
$names = [];
$walk = new RecursiveIteratorIterator(new RecursiveDirectoryIterator($base, FilesystemIterator::SKIP_DOTS), RecursiveIteratorIterator::SELF_FIRST);
foreach ($walk as $entry) {
    $name = substr($entry->getPathname(), strlen($base) + 1);
    if ($entry->isDir() && !$entry->isLink()) {
        if ($modes) {
            chmod($entry->getPathname(), 0755);
        }
    } else {
        $names[] = $name;
    }
}
sort($names, SORT_STRING);
$hashes = [];
$done = true;
// One hash over all names and hashes says as much as the list of them, when nothing is wrong.
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
if ($done && $after === '' && !empty($request['all'])) {
    helper_reply(['all' => hash_final($all), 'hashes' => null, 'done' => true]);
}
helper_reply(['hashes' => (object) $hashes, 'done' => $done]);
