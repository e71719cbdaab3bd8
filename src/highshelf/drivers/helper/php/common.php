<?php
/*
 * A helper of High Shelf, placed by this account's administrator while an application is being installed.
 * It answers only to requests signed with a key made for this one file, works only inside the folders listed
 * below, stops working at the time given below, and is removed when its work is done. You may delete it.
 */

const HELPER_KEY = '%KEY%';
const HELPER_UNTIL = %UNTIL%;
const HELPER_USES = %USES%;
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

/**
 * Refusals tell nothing but why, and the host's time, which a first request needs for its signature; they are signed too, in
 * words of their own: nobody on the way can make one up.
 */
function helper_refuse(string $why): void
{
    $body = json_encode(['refused' => $why]);
    $time = time();
    $nonce = isset($_SERVER['HTTP_X_HELPER_NONCE']) ? (string) $_SERVER['HTTP_X_HELPER_NONCE'] : '';
    http_response_code(403);
    header('X-Helper-Time: ' . $time);
    header('X-Helper-Seal: ' . hash_hmac('sha256', 'refused' . "\n" . $nonce . "\n" . $time . "\n" . $body, HELPER_KEY));
    echo $body;
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
 * Each nonce counts once, and there is an end to their number. They are kept in a locked file beside this one whose name no
 * server runs. Where PHP may not make files here, the file transfer login has put an empty one for it; a spent nonce is no secret.
 */
function helper_once(string $nonce): void
{
    if (!preg_match('/^[0-9a-f]{32}$/', $nonce)) {
        helper_refuse('nonce');
    }
    $name = substr(__FILE__, 0, -4) . '.seen.txt';
    $fresh = !file_exists($name);
    // Made by us or by the login, never by way of a link that somebody else has put there.
    $file = is_link($name) ? false : fopen($name, $fresh ? 'x+' : 'r+');
    if ($file === false && $fresh && file_exists($name) && !is_link($name)) {
        $file = fopen($name, 'r+');
    }
    if ($file === false || !flock($file, LOCK_EX)) {
        helper_refuse('nonce file');
    }
    if ($fresh) {
        chmod($name, 0600);
    }
    $seen = (string) stream_get_contents($file);
    if (strpos($seen, $nonce) !== false) {
        helper_refuse('replay');
    }
    if (strlen($seen) >= HELPER_USES * 33) {
        helper_refuse('used up');
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
    // Every folder on the way is looked at: one that is a link could lead anywhere. What is asked for may itself not be there yet.
    $path = $base;
    foreach (explode('/', $inside) as $part) {
        if ($part === '' || $part === '.' || $part === '..' || strpos($part, "\0") !== false || ($path !== $base && is_link($path))) {
            helper_reply(['error' => 'path leaves the folder'], 400);
        }
        $path .= '/' . $part;
    }
    // The nearest folder that is there has to be where it seems to be.
    $there = dirname($path);
    while (!file_exists($there)) {
        $there = dirname($there);
    }
    $real = realpath($there);
    if ($real === false || strpos($real . '/', $base . '/') !== 0) {
        helper_reply(['error' => 'path leaves the folder'], 400);
    }
    return $path;
}

/** A new file at a place, whatever was there: never written through a link, nor into what somebody else holds open. */
function helper_create(string $path)
{
    if (is_link($path) || file_exists($path)) {
        unlink($path);
    }
    return fopen($path, 'x');
}

/** A file of ours to go on with, made when it is not there. */
function helper_open(string $path)
{
    if (is_link($path)) {
        return false;
    }
    return file_exists($path) ? fopen($path, 'r+') : fopen($path, 'x');
}

function helper_time_is_up(float $started): bool
{
    return microtime(true) - $started > HELPER_SLICE_SECONDS;
}

