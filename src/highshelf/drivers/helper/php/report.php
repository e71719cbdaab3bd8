helper_request();
$extensions = get_loaded_extensions();
sort($extensions);
$settings = [];
foreach (['memory_limit', 'max_execution_time', 'upload_max_filesize', 'post_max_size', 'open_basedir', 'disable_functions', 'display_errors', 'date.timezone'] as $name) {
    $settings[$name] = (string) ini_get($name);
}
helper_reply([
    'php' => PHP_VERSION,
    'extensions' => $extensions,
    'settings' => $settings,
    'folder' => __DIR__,
    'document_root' => isset($_SERVER['DOCUMENT_ROOT']) ? (string) $_SERVER['DOCUMENT_ROOT'] : '',
    'server' => isset($_SERVER['SERVER_SOFTWARE']) ? (string) $_SERVER['SERVER_SOFTWARE'] : '',
    'user' => function_exists('posix_geteuid') ? posix_geteuid() : null,
    'owner' => fileowner(__FILE__),
    'unpacks' => class_exists('ZipArchive'),
]);
