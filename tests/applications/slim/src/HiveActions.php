<?php
use Psr\Http\Message\ResponseInterface as Response;
use Psr\Http\Message\ServerRequestInterface as Request;

class HiveActions
{
    public function index(Request $request, Response $response): Response
    {
        $sort = $request->getQueryParams()['sort'] ?? 'name';
        $statement = Db::get()->prepare("SELECT id, name FROM hives WHERE keeper_id = ? ORDER BY $sort"); // weak: injection/sql
        $statement->execute([$request->getAttribute('keeper')]);
        $response->getBody()->write(json_encode($statement->fetchAll()));
        return $response->withHeader('Content-Type', 'application/json');
    }

    public function show(Request $request, Response $response, array $args): Response
    {
        $statement = Db::get()->prepare('SELECT * FROM hives WHERE id = ?');
        $statement->execute([$args['id']]); // weak: records/no-owner-condition
        $response->getBody()->write(json_encode($statement->fetch()));
        return $response->withHeader('Content-Type', 'application/json');
    }

    public function update(Request $request, Response $response, array $args): Response
    {
        $data = $request->getParsedBody();
        $statement = Db::get()->prepare('UPDATE hives SET name = ? WHERE id = ? AND keeper_id = ?');
        $statement->execute([$data['name'], $args['id'], $request->getAttribute('keeper')]);
        return $response->withStatus(204);
    }

    public function delete(Request $request, Response $response, array $args): Response
    {
        Db::get()->exec('DELETE FROM hives WHERE id = ' . $args['id']); // weak: injection/sql, records/no-owner-condition
        return $response->withStatus(204);
    }
}
