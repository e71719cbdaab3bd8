<?php
/*
 * A helper of High Shelf, placed by this account's administrator while an application is being installed.
 * It answers only to requests signed with a key made for this one file, works only inside the folders listed
 * below, stops working at the time given below, and is removed when its work is done. You may delete it.
 */

const HELPER_KEY = '%KEY%';
const HELPER_UNTIL = %UNTIL%;
const HELPER_FOLDERS = [%FOLDERS%];
const HELPER_SLICE_SECONDS = 8;

// What a report tells of these two is how the host has them, not how this file wants them.
$helper_found = ['display_errors' => ini_get('display_errors'), 'error_reporting' => ini_get('error_reporting')];
ini_set('display_errors', '0');
error_reporting(0);
header('Content-Type: application/json');
header('Cache-Control: no-store');
header('X-Robots-Tag: noindex');

function helper_reply(array $answer, int $status = 200): void
{
    $body = json_encode($answer, JSON_INVALID_UTF8_SUBSTITUTE | JSON_PARTIAL_OUTPUT_ON_ERROR);
    $nonce = isset($_SERVER['HTTP_X_HELPER_NONCE']) ? (string) $_SERVER['HTTP_X_HELPER_NONCE'] : '';
    http_response_code($status);
    header('X-Helper-Time: ' . time());
    header('X-Helper-Seal: ' . hash_hmac('sha256', 'reply' . "\n" . $nonce . "\n" . $status . "\n" . $body, HELPER_KEY));
    echo $body;
    exit;
}

/** Refusals tell nothing but the host's time, which a first request needs for its signature. */
function helper_refuse(string $why): void
{
    http_response_code(403);
    header('X-Helper-Time: ' . time());
    echo json_encode(['refused' => $why]);
    exit;
}

function helper_request(): array
{
    if (time() > HELPER_UNTIL) {
        helper_refuse('expired');
    }
    $body = (string) file_get_contents('php://input');
    $nonce = isset($_SERVER['HTTP_X_HELPER_NONCE']) ? (string) $_SERVER['HTTP_X_HELPER_NONCE'] : '';
    $time = isset($_SERVER['HTTP_X_HELPER_TIME']) ? (int) $_SERVER['HTTP_X_HELPER_TIME'] : 0;
    $seal = isset($_SERVER['HTTP_X_HELPER_SEAL']) ? (string) $_SERVER['HTTP_X_HELPER_SEAL'] : '';
    $method = isset($_SERVER['REQUEST_METHOD']) ? (string) $_SERVER['REQUEST_METHOD'] : '';
    $right = hash_hmac('sha256', $method . "\n" . $body . "\n" . $nonce . "\n" . $time, HELPER_KEY);
    if ($method !== 'POST' || !hash_equals($right, $seal)) {
        helper_refuse('signature');
    }
    if (abs(time() - $time) > 120) {
        helper_refuse('time');
    }
    helper_once($nonce);
    $request = json_decode($body, true);
    return is_array($request) ? $request : [];
}

/**
 * Each nonce counts once; they are kept in a locked file beside this one that no browser can read. Where PHP may not
 * make files here, the file transfer login has put an empty one for it, a text and no script; a spent nonce is no secret.
 */
function helper_once(string $nonce): void
{
    if (!preg_match('/^[0-9a-f]{32}$/', $nonce)) {
        helper_refuse('nonce');
    }
    $given = __FILE__ . '.seen.txt';
    $file = fopen(file_exists($given) ? $given : __FILE__ . '.seen.php', 'c+');
    if ($file === false || !flock($file, LOCK_EX)) {
        helper_refuse('nonce file');
    }
    $seen = (string) stream_get_contents($file);
    if (strpos($seen, $nonce) !== false) {
        helper_refuse('replay');
    }
    if ($seen === '') {
        fwrite($file, "<?php exit; ?>\n");
    }
    fseek($file, 0, SEEK_END);
    fwrite($file, $nonce . "\n");
    fflush($file);
    flock($file, LOCK_UN);
    fclose($file);
}

/** The real path of one of the listed folders, or of something inside it. */
function helper_path(int $folder, string $inside = ''): string
{
    if (!isset(HELPER_FOLDERS[$folder])) {
        helper_reply(['error' => 'no such folder'], 400);
    }
    $base = realpath(__DIR__ . '/' . HELPER_FOLDERS[$folder]);
    if ($base === false) {
        helper_reply(['error' => 'folder missing: ' . HELPER_FOLDERS[$folder]], 400);
    }
    if ($inside === '') {
        return $base;
    }
    foreach (explode('/', $inside) as $part) {
        if ($part === '' || $part === '.' || $part === '..' || strpos($part, "\0") !== false) {
            helper_reply(['error' => 'path leaves the folder'], 400);
        }
    }
    $path = $base . '/' . $inside;
    $real = realpath(file_exists($path) ? $path : dirname($path));
    if ($real !== false && strpos($real . '/', $base . '/') !== 0) {
        helper_reply(['error' => 'path leaves the folder'], 400);
    }
    return $path;
}

function helper_time_is_up(float $started): bool
{
    return microtime(true) - $started > HELPER_SLICE_SECONDS;
}

