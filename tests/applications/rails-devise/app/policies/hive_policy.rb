class HivePolicy < ApplicationPolicy
  def show? = record.keeper_id == keeper.id || keeper.office?
  def edit? = update?
  def update? = record.keeper == keeper
  def destroy? = update?

  class Scope < ApplicationPolicy::Scope
    def resolve
      keeper.office? ? scope.all : scope.where(keeper: keeper)
    end
  end
end
