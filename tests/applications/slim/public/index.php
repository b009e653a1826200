<?php
use Slim\Factory\AppFactory;
use Slim\Routing\RouteCollectorProxy;

require __DIR__ . '/../vendor/autoload.php';
require __DIR__ . '/../src/Db.php';
require __DIR__ . '/../src/Auth.php';
require __DIR__ . '/../src/HiveActions.php';

session_start();
$app = AppFactory::create();
$app->addBodyParsingMiddleware();
$app->addErrorMiddleware(true, true, true); // weak: exposure/debug-left-on

$app->post('/register', Register::class);
$app->post('/login', Login::class . ':enter');
$app->post('/logout', function ($request, $response) {
    $_SESSION = [];
    session_destroy();
    return $response->withHeader('Location', '/')->withStatus(302);
});

$app->group('/hives', function (RouteCollectorProxy $group) {
    $group->get('', [HiveActions::class, 'index']);
    $group->get('/{id}', HiveActions::class . ':show');
    $group->post('/{id}', HiveActions::class . ':update');
    $group->delete('/{id}', HiveActions::class . ':delete');
})->add(new RequireSignIn());

$app->get('/swarms', function ($request, $response) {
    $q = $request->getQueryParams()['q'] ?? '';
    $response->getBody()->write('<h1>Swarms like ' . $q . '</h1>'); // weak: injection/page-output
    return $response;
});
$app->get('/go', function ($request, $response, array $args) {
    return $response->withHeader('Location', $request->getQueryParams()['to'])->withStatus(302); // weak: injection/redirect
});
$app->run();
