using Bellator.Web;
using Bellator.Web.Supervision;

return args is [HelperProgram.Mode] ? HelperProgram.Run() : await Launcher.RunAsync(args);
