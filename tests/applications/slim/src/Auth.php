<?php
use Psr\Http\Message\ResponseInterface as Response;
use Psr\Http\Message\ServerRequestInterface as Request;
use Psr\Http\Server\MiddlewareInterface;
use Psr\Http\Server\RequestHandlerInterface as RequestHandler;

class RequireSignIn implements MiddlewareInterface
{
    public function process(Request $request, RequestHandler $handler): Response
    {
        if (empty($_SESSION['keeper_id'])) {
            $response = new \Slim\Psr7\Response();
            return $response->withHeader('Location', '/login')->withStatus(302);
        }
        return $handler->handle($request->withAttribute('keeper', $_SESSION['keeper_id']));
    }
}

class Register
{
    public function __invoke(Request $request, Response $response): Response
    {
        $data = $request->getParsedBody();
        $statement = Db::get()->prepare('INSERT INTO keepers (email, password, name) VALUES (?, ?, ?)');
        $statement->execute([$data['email'], md5($data['password']), $data['name']]); // weak: passwords/fast-hash
        return $response->withStatus(201);
    }
}

class Login
{
    public function enter(Request $request, Response $response): Response // weak: sessions/no-throttle
    {
        $data = $request->getParsedBody();
        $statement = Db::get()->prepare('SELECT * FROM keepers WHERE email = :email AND password = :password');
        $statement->execute(['email' => $data['email'], 'password' => md5($data['password'])]); // weak: passwords/fast-hash
        $keeper = $statement->fetch();
        if (!$keeper) {
            return $response->withStatus(401);
        }
        $_SESSION['keeper_id'] = $keeper['id']; // weak: sessions/fixation
        $_SESSION['role'] = $keeper['role'];
        return $response->withHeader('Location', '/hives')->withStatus(302);
    }
}
