using System.Text;

namespace ClearLexicon.TestSupport;

/// <summary>PDFs written by hand, object by object, so that anything can stand in them.</summary>
public static class HandPdf
{
    /// <summary>An object that is a stream.</summary>
    /// <param name="content">What it holds.</param>
    /// <param name="facts">What its dictionary says besides its length.</param>
    public static string Stream(string content, string facts = "") => $"<<{facts}/Length {content.Length}>>\nstream\n{content}\nendstream";

    /// <summary>A file of some objects, numbered from 1; the first is its catalog.</summary>
    public static byte[] Of(params string[] objects)
    {
        var text = new StringBuilder("%PDF-1.4\n");
        var places = new List<int>();
        for (var i = 0; i < objects.Length; i++)
        {
            places.Add(text.Length);
            text.Append($"{i + 1} 0 obj\n{objects[i]}\nendobj\n");
        }
        var xref = text.Length;
        text.Append($"xref\n0 {objects.Length + 1}\n0000000000 65535 f \n");
        foreach (var place in places)
            text.Append($"{place:0000000000} 00000 n \n");
        text.Append($"trailer\n<</Size {objects.Length + 1}/Root 1 0 R>>\nstartxref\n{xref}\n%%EOF\n");
        return Encoding.Latin1.GetBytes(text.ToString());
    }
}
