<?php

// Moorings: what every page needs.
define('MOORINGS_VERSION', '2.1');
define('MOORINGS_ROOT', dirname(__DIR__));

if (version_compare(PHP_VERSION, '7.4', '<')) {
    die('Moorings needs PHP 7.4 or newer.');
}

function h($text)
{
    return htmlspecialchars((string) $text, ENT_QUOTES, 'UTF-8');
}

function show($heading, $body, $status = 200)
{
    http_response_code($status);
    header('Content-Type: text/html; charset=utf-8');
    echo "<html><head><title>Moorings - " . h($heading) . "</title><link rel=stylesheet href=look/moorings.css></head>\n"
        . "<body><table class=frame><tr><td class=mast>Moorings</td></tr><tr><td><h2>" . h($heading) . "</h2>\n" . $body
        . "\n</td></tr><tr><td class=foot>Moorings " . MOORINGS_VERSION . "</td></tr></table></body></html>";
}

/** The settings, or null before the wizard has been through. */
function settings()
{
    $file = MOORINGS_ROOT . '/config.inc.php';
    return is_file($file) ? include $file : null;
}

/** "host", "host:port" or "" for the server on this machine. */
function open_database($server, $login, $word, $name)
{
    mysqli_report(MYSQLI_REPORT_OFF);
    $parts = explode(':', trim($server) === '' ? 'localhost' : trim($server), 2);
    $db = @mysqli_connect($parts[0], $login, $word, $name, isset($parts[1]) ? (int) $parts[1] : null);
    if ($db) {
        mysqli_set_charset($db, 'utf8mb4');
    }
    return $db;
}

/** Files of the wizard, under its own name or one that it was given to put it out of the way. */
function wizard_files()
{
    return array_map('basename', glob(MOORINGS_ROOT . '/wizard*') ?: []);
}

/** The harbour's berths, or null without the module. */
function berth_plan()
{
    $file = MOORINGS_ROOT . '/modules/berthplan/plan.inc.php';
    return is_file($file) ? include $file : null;
}
