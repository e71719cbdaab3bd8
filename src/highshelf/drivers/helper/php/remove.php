$request = helper_request();
$started = microtime(true);
$folder = isset($request['folder']) ? (int) $request['folder'] : 0;
$path = helper_path($folder, isset($request['inside']) ? (string) $request['inside'] : '');
if ($path === helper_path($folder) || !is_dir($path) || is_link($path)) {
    helper_reply(['done' => !is_dir($path), 'removed' => 0]);
}
$removed = 0;
// Where PHP is another user it can take away only what it made itself; the transfer login has the rest.
$own = !empty($request['own']);
// What is deepest comes first; a link is removed, never followed.
$walk = new RecursiveIteratorIterator(
    new RecursiveDirectoryIterator($path, FilesystemIterator::SKIP_DOTS),
    RecursiveIteratorIterator::CHILD_FIRST
);
foreach ($walk as $entry) {
    if (helper_time_is_up($started)) {
        helper_reply(['done' => false, 'removed' => $removed]);
    }
    $name = $entry->getPathname();
    $gone = $entry->isDir() && !$entry->isLink() ? @rmdir($name) : @unlink($name);
    if (!$gone && $own) {
        continue;
    }
    if (!$gone) {
        helper_reply(['error' => 'cannot remove ' . substr($name, strlen($path) + 1)], 403);
    }
    $removed++;
}
helper_reply(['done' => @rmdir($path) || $own, 'removed' => $removed]);
