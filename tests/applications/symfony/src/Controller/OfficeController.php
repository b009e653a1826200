<?php

namespace App\Controller;

use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\HttpFoundation\BinaryFileResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Process\Process;
use Symfony\Component\Routing\Attribute\Route;

#[Route('/office')]
class OfficeController extends AbstractController
{
    #[Route('/report/{name}', methods: ['GET'])]
    public function report(string $name): Response
    {
        return new BinaryFileResponse('/var/reports/' . basename($name) . '.pdf');
    }

    #[Route('/archive', methods: ['GET'])]
    public function archive(Request $request): Response
    {
        return new BinaryFileResponse('/var/archive/' . $request->query->get('file')); // weak: injection/path
    }

    #[Route('/export', methods: ['POST'])]
    public function export(Request $request): Response
    {
        $process = new Process(['zip', '-r', '/tmp/export.zip', '/var/reports/' . (int) $request->request->get('year')]);
        $process->run();
        $pack = Process::fromShellCommandline('gzip -k /tmp/' . $request->request->get('name')); // weak: injection/command
        $pack->run();

        return new Response('done');
    }

    #[Route('/note', methods: ['GET'])]
    public function note(Request $request): Response
    {
        return new Response('<p>' . $request->query->get('text') . '</p>'); // weak: injection/page-output
    }
}
