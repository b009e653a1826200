<?php

declare(strict_types=1);

namespace Register\Actions;

use PDO;
use Register\Request;

final class Hives
{
    public function __construct(private readonly PDO $db)
    {
    }

    public function index(Request $request): void
    {
        $ask = $this->db->prepare('SELECT id, name FROM hives WHERE keeper_id = ?');
        $ask->execute([$_SESSION['keeper_id']]);
        echo json_encode($ask->fetchAll(PDO::FETCH_ASSOC), JSON_THROW_ON_ERROR);
    }

    public function show(Request $request): void
    {
        $ask = $this->db->prepare('SELECT * FROM hives WHERE id = ?');
        $ask->execute([$request->path('hive')]); // weak: records/no-owner-condition
        header('Content-Type: application/json');
        echo json_encode($ask->fetch(PDO::FETCH_ASSOC), JSON_THROW_ON_ERROR);
    }

    public function rename(Request $request): void
    {
        $this->db->prepare('UPDATE hives SET name = ? WHERE id = ? AND keeper_id = ?')
            ->execute([$request->form('name'), $request->path('hive'), $_SESSION['keeper_id']]);
        to('/hives');
    }

    public function remove(Request $request): void
    {
        $this->db->prepare('DELETE FROM hives WHERE id = ? AND keeper_id = ?')->execute([$request->path('hive'), $_SESSION['keeper_id']]);
        to('/hives');
    }

    public function all(Request $request): void
    {
        header('Content-Type: application/json');
        echo json_encode($this->db->query('SELECT id, name, keeper_id FROM hives')->fetchAll(PDO::FETCH_ASSOC), JSON_THROW_ON_ERROR);
    }
}
