module Office
  class KeepersController < ApplicationController
    before_action :require_office

    def index
      @keepers = Keeper.all
      render json: @keepers # weak: exposure/hash-in-response
    end

    def update
      keeper = Keeper.find(params[:id])
      keeper.update!(params.require(:keeper).permit(:role))
      head :no_content
    end

    private

    def require_office
      head :forbidden unless current_keeper.role == "office"
    end
  end
end
