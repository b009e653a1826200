<?php

declare(strict_types=1);

use Register\Actions\Accounts;
use Register\Actions\Hives;
use Register\Actions\Reports;
use Register\App;

return static function (App $app): void {
    $app->get('/reports', [Reports::class, 'search']);
    $app->post('/register', [Accounts::class, 'register']);
    $app->post('/login', [Accounts::class, 'login']);
    $app->post('/logout', [Accounts::class, 'logout'], keeper(...));

    $app->under('/hives', [keeper(...)], static function (App $app): void {
        $app->get('', [Hives::class, 'index']);
        $app->get('/{hive}', [Hives::class, 'show']);
        $app->post('/{hive}/rename', [Hives::class, 'rename']);
        $app->post('/{hive}/remove', [Hives::class, 'remove']);
    });

    $app->under('/inspections', [keeper(...), inspector(...)], static function (App $app): void {
        $app->get('/hives', [Hives::class, 'all']);
    });
};
