<?php

declare(strict_types=1);

spl_autoload_register(static function (string $class): void {
    $file = __DIR__ . '/' . strtr(substr($class, strlen('Seedledger\\')), '\\', '/') . '.php';
    if (str_starts_with($class, 'Seedledger\\') && is_file($file)) {
        require $file;
    }
});
