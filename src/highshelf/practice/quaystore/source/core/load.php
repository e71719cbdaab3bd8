<?php

declare(strict_types=1);

spl_autoload_register(static function (string $class): void {
    $file = __DIR__ . '/' . str_replace('Quaystore\\', '', $class) . '.php';
    if (str_starts_with($class, 'Quaystore\\') && is_file($file)) {
        require $file;
    }
});
