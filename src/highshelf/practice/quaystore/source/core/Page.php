<?php

declare(strict_types=1);

namespace Quaystore;

final class Page
{
    public static function text(?string $text): string
    {
        return htmlspecialchars((string) $text, ENT_QUOTES | ENT_SUBSTITUTE, 'UTF-8');
    }

    public static function show(string $title, string $body, string $up = '', int $status = 200, string $script = ''): never
    {
        http_response_code($status);
        header('Content-Type: text/html; charset=utf-8');
        echo '<!DOCTYPE html><html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>', self::text($title),
            '</title><link rel="stylesheet" href="', $up, 'look/quay.css">', $script === '' ? '' : '<script src="' . $script . '" defer></script>',
            '</head><body><header>Quaystore</header><section><h1>', self::text($title), '</h1>', $body, '</section></body></html>';
        exit;
    }
}
