<?php

declare(strict_types=1);

require __DIR__ . '/../vendor/autoload.php';

use Register\App;
use Register\Request;

session_start(['cookie_secure' => true, 'cookie_httponly' => true, 'cookie_samesite' => 'Lax', 'use_strict_mode' => true]);

$app = new App(new PDO(getenv('REGISTER_DSN'), getenv('REGISTER_USER'), getenv('REGISTER_PASSWORD')));
(require __DIR__ . '/../src/routes.php')($app);
$app->run(Request::current());
