<?php

namespace App\Controller;

use App\Entity\Hive;
use App\Repository\HiveRepository;
use Doctrine\ORM\EntityManagerInterface;
use Symfony\Bundle\FrameworkBundle\Controller\AbstractController;
use Symfony\Component\HttpFoundation\JsonResponse;
use Symfony\Component\HttpFoundation\Request;
use Symfony\Component\HttpFoundation\Response;
use Symfony\Component\Routing\Attribute\Route;
use Symfony\Component\Security\Http\Attribute\IsGranted;

#[Route('/hives')]
class HiveController extends AbstractController
{
    public function __construct(private HiveRepository $hives)
    {
    }

    #[Route('', name: 'hives', methods: ['GET'])]
    public function index(Request $request): Response
    {
        $hives = $this->hives->named($request->query->get('part', ''), $request->query->get('order', 'name'));

        return $this->render('hive/index.html.twig', ['hives' => $hives, 'part' => $request->query->get('part')]);
    }

    #[Route('/district/{district}', methods: ['GET'])]
    public function district(string $district): JsonResponse
    {
        return $this->json(array_map(fn (Hive $h) => ['id' => $h->getId(), 'name' => $h->getName()], $this->hives->inDistrict($district)));
    }

    #[Route('/yields', methods: ['GET'])]
    public function yields(Request $request): JsonResponse
    {
        return $this->json($this->hives->yields($request->query->get('year')));
    }

    #[Route('', methods: ['POST'])]
    public function create(Request $request, EntityManagerInterface $manager): Response
    {
        $hive = (new Hive())->setName($request->request->get('name', ''))->setKeeper($this->getUser());
        $manager->persist($hive);
        $manager->flush();

        return $this->redirectToRoute('hives');
    }

    #[Route('/{id}', methods: ['DELETE'])]
    #[IsGranted('DELETE', subject: 'hive')]
    public function remove(Hive $hive, EntityManagerInterface $manager): Response
    {
        $manager->remove($hive);
        $manager->flush();

        return new Response(status: Response::HTTP_NO_CONTENT);
    }

    #[Route('/{id}/back', methods: ['GET'])]
    public function back(Request $request): Response
    {
        return $this->redirect($request->query->get('to', '/hives')); // weak: injection/redirect
    }
}
