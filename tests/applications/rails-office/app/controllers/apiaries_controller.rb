class ApiariesController < ApplicationController
  before_action :require_login
  before_action :find_apiary, only: [:show, :edit, :update, :destroy]

  def index
    @apiaries = Apiary.where(keeper_id: Keeper.current.id)
  end

  def show
  end

  def new
    @apiary = Apiary.new
  end

  def create
    @apiary = Apiary.new(name: params[:name], keeper: Keeper.current)
    redirect_to '/apiaries' if @apiary.save
  end

  def edit
  end

  def update
    redirect_to '/apiaries' if @apiary.update(name: params[:name])
  end

  def destroy
    @apiary.destroy
    redirect_to '/apiaries'
  end

  private

  def find_apiary
    @apiary = Apiary.find_by(id: params[:id], keeper_id: Keeper.current.id)
    render_404 unless @apiary
  end
end
