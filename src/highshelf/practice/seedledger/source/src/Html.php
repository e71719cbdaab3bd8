<?php

declare(strict_types=1);

namespace Seedledger;

final class Html
{
    public static function e(?string $text): string
    {
        return htmlspecialchars((string) $text, ENT_QUOTES | ENT_SUBSTITUTE, 'UTF-8');
    }

    public static function page(string $title, string $main, int $status = 200, string $head = ''): void
    {
        http_response_code($status);
        header('Content-Type: text/html; charset=UTF-8');
        $base = rtrim(dirname($_SERVER['SCRIPT_NAME']), '/');
        echo "<!doctype html>\n<html lang=\"en\">\n<head><meta charset=\"UTF-8\"><title>", self::e($title), "</title>$head<link rel=\"stylesheet\" href=\"$base/assets/ledger.css\"></head>\n<body><nav>Seedledger</nav><main><h1>",
            self::e($title), "</h1>\n$main\n</main></body>\n</html>\n";
    }

    /** @param list<array{string, string}> $rows label and control */
    public static function form(string $step, string $slip, array $rows, string $button): string
    {
        $inside = '';
        foreach ($rows as [$label, $control]) {
            $inside .= "<dt>$label</dt><dd>$control</dd>\n";
        }
        return "<form method=\"post\"><input type=\"hidden\" name=\"_step\" value=\"$step\"><input type=\"hidden\" name=\"_slip\" value=\"$slip\">\n<dl>$inside</dl><button type=\"submit\" name=\"_do\" value=\"on\">$button</button></form>";
    }
}
