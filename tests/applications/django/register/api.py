from rest_framework import permissions, serializers, viewsets
from rest_framework.decorators import action
from rest_framework.response import Response

from .models import Hive, Swarm


class HiveSerializer(serializers.ModelSerializer):
    class Meta:
        model = Hive
        fields = ["id", "name", "frames"]


class SwarmSerializer(serializers.ModelSerializer):
    class Meta:
        model = Swarm
        fields = ["id", "place", "seen_on"]


class HiveViewSet(viewsets.ModelViewSet):
    serializer_class = HiveSerializer

    def get_queryset(self):
        return Hive.objects.filter(keeper=self.request.user)

    def perform_create(self, serializer):
        serializer.save(keeper=self.request.user)


class SwarmViewSet(viewsets.ReadOnlyModelViewSet):
    queryset = Swarm.objects.all()
    serializer_class = SwarmSerializer
    permission_classes = [permissions.AllowAny]

    @action(detail=False)
    def near(self, request):
        place = request.query_params.get("place")
        swarms = Swarm.objects.extra(where=["place = '%s'" % place])  # weak: injection/sql
        return Response(SwarmSerializer(swarms, many=True).data)
