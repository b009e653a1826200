<?php

declare(strict_types=1);

namespace Register;

final class Request
{
    private array $found = [];

    private function __construct(public readonly string $method, public readonly string $path, private array $query, private array $form)
    {
    }

    public static function current(): self
    {
        return new self($_SERVER['REQUEST_METHOD'], strtok($_SERVER['REQUEST_URI'], '?'), $_GET, $_POST);
    }

    public function with(array $found): self
    {
        $copy = clone $this;
        $copy->found = $found;
        return $copy;
    }

    public function path(string $name): string
    {
        return rawurldecode($this->found[$name] ?? '');
    }

    public function query(string $name): string
    {
        return is_string($this->query[$name] ?? null) ? $this->query[$name] : '';
    }

    public function form(string $name): string
    {
        return is_string($this->form[$name] ?? null) ? trim($this->form[$name]) : '';
    }
}
