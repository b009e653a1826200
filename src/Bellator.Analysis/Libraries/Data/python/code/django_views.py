# What the generic views of Django and Django REST framework do with records, in their documented order, from memory (Django 3.2 to 5,
# REST framework 3.12 and later). It is read, never run: every view of an audited program gets these methods behind its own, so that its
# queryset, its get_queryset and its permissions are seen where the framework uses them. `framework` stands for what no code needs to show.


class View:
    def get_queryset(self):
        return framework.rows(self.queryset, self.model)

    def get_object(self, queryset=None):
        return framework.find(framework.rows(self.get_queryset(), self.queryset, self.model), pk=self.kwargs["pk"])


class DetailView(View):
    def get(self, request, *args, **kwargs):
        self.object = self.get_object()
        return self.render_to_response(self.get_context_data(object=self.object))


class UpdateView(DetailView):
    def post(self, request, *args, **kwargs):
        self.object = self.get_object()
        framework.change(self.object)
        return self.form_valid(self.get_form())


class DeleteView(DetailView):
    def post(self, request, *args, **kwargs):
        self.object = self.get_object()
        framework.remove(self.object)
        return self.form_valid(self.get_form())


class ListView(View):
    def get(self, request, *args, **kwargs):
        self.object_list = framework.all(framework.rows(self.get_queryset(), self.queryset, self.model))
        return self.render_to_response(self.get_context_data())


class APIView(View):
    def get_object(self):
        row = framework.find(framework.rows(self.get_queryset(), self.queryset), pk=self.kwargs["pk"])
        self.check_object_permissions(self.request, row)
        return row

    def get_permissions(self):
        return [permission() for permission in self.permission_classes]

    def check_object_permissions(self, request, obj):
        for permission in self.get_permissions():
            if not permission.has_object_permission(request, self, obj):
                self.permission_denied(request)

    def perform_create(self, serializer):
        serializer.save()


class ListModelMixin(APIView):
    def list(self, request, *args, **kwargs):
        return framework.all(framework.rows(self.get_queryset(), self.queryset))


class RetrieveModelMixin(APIView):
    def retrieve(self, request, *args, **kwargs):
        return self.get_object()


class CreateModelMixin(APIView):
    def create(self, request, *args, **kwargs):
        self.perform_create(self.get_serializer(data=request.data))


class UpdateModelMixin(APIView):
    def update(self, request, *args, **kwargs):
        row = self.get_object()
        framework.change(row)
        self.perform_update(self.get_serializer(row, data=request.data))

    def partial_update(self, request, *args, **kwargs):
        return self.update(request, *args, **kwargs)


class DestroyModelMixin(APIView):
    def destroy(self, request, *args, **kwargs):
        row = self.get_object()
        framework.remove(row)
        self.perform_destroy(row)


class ReadOnlyModelViewSet(RetrieveModelMixin, ListModelMixin):
    pass


class ModelViewSet(CreateModelMixin, RetrieveModelMixin, UpdateModelMixin, DestroyModelMixin, ListModelMixin):
    pass


class GenericViewSet(APIView):
    pass


class GenericAPIView(APIView):
    pass


class ListAPIView(ListModelMixin):
    def get(self, request, *args, **kwargs):
        return self.list(request, *args, **kwargs)


class CreateAPIView(CreateModelMixin):
    def post(self, request, *args, **kwargs):
        return self.create(request, *args, **kwargs)


class RetrieveAPIView(RetrieveModelMixin):
    def get(self, request, *args, **kwargs):
        return self.retrieve(request, *args, **kwargs)


class UpdateAPIView(UpdateModelMixin):
    def put(self, request, *args, **kwargs):
        return self.update(request, *args, **kwargs)

    def patch(self, request, *args, **kwargs):
        return self.update(request, *args, **kwargs)


class DestroyAPIView(DestroyModelMixin):
    def delete(self, request, *args, **kwargs):
        return self.destroy(request, *args, **kwargs)


class ListCreateAPIView(ListAPIView, CreateAPIView):
    pass


class RetrieveUpdateAPIView(RetrieveAPIView, UpdateAPIView):
    pass


class RetrieveDestroyAPIView(RetrieveAPIView, DestroyAPIView):
    pass


class RetrieveUpdateDestroyAPIView(RetrieveAPIView, UpdateAPIView, DestroyAPIView):
    pass
