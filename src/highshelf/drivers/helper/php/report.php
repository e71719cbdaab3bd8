$wanted = helper_request();
// Folders are named by their number in the list of this file, never by a path from outside.
$folders = [];
foreach (HELPER_FOLDERS as $number => $folder) {
    $folders[$number] = __DIR__ . '/' . $folder;
}
$wanted['folders'] = $folders;
$report = host_report($wanted);
foreach ($helper_found as $name => $value) {
    if (isset($report['settings'][$name])) {
        $report['settings'][$name]['value'] = (string) $value;
    }
}
$report['owner'] = fileowner(__FILE__);
$report['inflates'] = function_exists('inflate_init') && function_exists('inflate_get_read_len');
helper_reply($report);
