<?php

declare(strict_types=1);

/** Text for a page, never markup. */
function e(string $text): string
{
    return htmlspecialchars($text, ENT_QUOTES | ENT_SUBSTITUTE, 'UTF-8');
}

function phrases(string $language): array
{
    $file = __DIR__ . '/phrases/' . basename($language) . '.php';
    return is_file($file) ? require $file : require __DIR__ . '/phrases/en.php';
}

/** @param array{host:string,port:int,name:string,user:string,password:string} $database */
function connect(array $database): PDO
{
    $source = sprintf('mysql:host=%s;port=%d;dbname=%s;charset=utf8mb4', $database['host'], $database['port'], $database['name']);
    if ($database['host'] === 'localhost') {
        $source = sprintf('mysql:host=localhost;dbname=%s;charset=utf8mb4', $database['name']);
    }
    return new PDO($source, $database['user'], $database['password'], [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION]);
}

function page(string $title, string $body, int $status = 200): void
{
    http_response_code($status);
    header('Content-Type: text/html; charset=utf-8');
    echo '<!doctype html><html lang="en"><head><meta charset="utf-8"><title>' . e($title) . '</title>'
        . '<link rel="stylesheet" href="' . (basename(getcwd()) === 'install' || basename(getcwd()) === 'staff' ? '../' : '') . 'theme/tide.css">'
        . '</head><body><main><h1>' . e($title) . '</h1>' . $body . '</main></body></html>';
}
