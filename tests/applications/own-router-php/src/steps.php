<?php

declare(strict_types=1);

use Register\App;
use Register\Request;

function to(string $path): never
{
    header('Location: ' . $path, true, 303);
    exit;
}

function same_site(App $app, Request $request): void
{
    if (!hash_equals($_SESSION['form'] ?? '', $request->form('form')) || ($_SESSION['form'] ?? '') === '') {
        http_response_code(403);
        exit('This form is out of date.');
    }
}

function keeper(App $app, Request $request): void
{
    isset($_SESSION['keeper_id']) or to('/login');
}

function inspector(App $app, Request $request): void
{
    $ask = $app->db->prepare("SELECT 1 FROM keepers WHERE id = ? AND role = 'inspector'");
    $ask->execute([$_SESSION['keeper_id']]);
    if (!$ask->fetchColumn()) {
        http_response_code(403);
        exit('For inspectors.');
    }
}
