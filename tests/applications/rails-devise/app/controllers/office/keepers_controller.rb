module Office
  class KeepersController < ApplicationController
    before_action :require_office, only: %i[index update]

    def index
      render json: Keeper.all # weak: exposure/hash-in-response
    end

    def update
      Keeper.find(params[:id]).update!(role: params[:role])
      head :no_content
    end

    def destroy
      Keeper.find(params[:id]).destroy # weak: records/no-owner-condition
      head :no_content
    end

    private

    def require_office
      redirect_to root_path unless current_keeper.office?
    end
  end
end
